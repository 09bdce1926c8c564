import type { Finding } from 'aurelian-drift';
import { MANIFEST, MANIFEST_CHOICES, MANIFEST_PERMISSIONS, meantPermission } from 'aurelian-drift/internal';
import { foundIn } from './found.js';
import type { Needs, ProjectFile, PromptPreview } from './project.js';
import { within, xmlTree, type Element } from './xml-tree.js';

/**
 * Checks the manifest of an app: permissions by level and precision, and the service that following in the background
 * needs.
 */
export function checkManifest(
  file: ProjectFile,
  needs: Needs,
): { findings: Finding[]; prompts: PromptPreview[] } {
  const findings: Finding[] = [];
  const found = foundIn(file, findings);
  const tree = xmlTree(file.text);
  if ('problem' in tree) {
    found(
      'error',
      'malformed',
      `the manifest is malformed: ${tree.problem}`,
      'Mend it; it cannot be built so.',
      tree.line,
    );
    return { findings, prompts: [] };
  }
  const { root } = tree;
  const named = namer(root);
  const declared = new Map<string, Element>();
  for (const element of within(root)) {
    if (element.name !== 'uses-permission') continue;
    const name = named(element, 'name');
    if (name === undefined) {
      found(
        'error',
        'malformed',
        'a uses-permission has no name in the manifest’s namespace',
        `Write android:name="…", with xmlns:android="${MANIFEST.namespace}".`,
        element.line,
      );
      continue;
    }
    const meant = meantPermission(name);
    if (meant !== undefined)
      found(
        'error',
        'misspelt',
        `"${name}" is not a permission, and the system ignores it silently`,
        `Write ${meant}.`,
        element.line,
      );
    if (element.parent !== root && (meant !== undefined || MANIFEST_PERMISSIONS.includes(name))) {
      found(
        'error',
        'misplaced',
        `${name} stands inside <${element.parent?.name ?? ''}>, where the system does not look`,
        'Move it directly into <manifest>.',
        element.line,
      );
    }
    if (element.parent === root) declared.set(meant ?? name, element);
  }
  const lineOf = (name: string) => declared.get(name)?.line;
  const has = (name: string) => declared.has(name);
  const write = (name: string) => `Add <uses-permission android:name="${name}" />.`;

  const any = has(MANIFEST.approximate) || has(MANIFEST.precise);
  if (needs.positions && !any) {
    found(
      'error',
      'missing',
      'no permission for positions is declared; without one a request is refused at once',
      write(MANIFEST.approximate),
    );
  }
  if (has(MANIFEST.precise) && !has(MANIFEST.approximate)) {
    found(
      'error',
      'precise-alone',
      'the precise permission is declared without the approximate one, and the request is then ignored',
      write(MANIFEST.approximate),
      lineOf(MANIFEST.precise),
    );
  }
  if (needs.precise && has(MANIFEST.approximate) && !has(MANIFEST.precise)) {
    found(
      'error',
      'approximate-only',
      `the code needs precise positions (${needs.where.precise ?? ''}), but only approximate ones are declared`,
      write(MANIFEST.precise),
      lineOf(MANIFEST.approximate),
    );
  }
  if (!needs.precise && !needs.unstated && needs.positions && has(MANIFEST.precise)) {
    found(
      'warning',
      'not-needed',
      'the precise permission is declared, and the code never asks for less than 500 m',
      `Take out ${MANIFEST.precise}.`,
      lineOf(MANIFEST.precise),
    );
  }

  const service = [...within(root)].find(
    (element) =>
      element.name === 'service' &&
      (named(element, 'foregroundServiceType') ?? '').split('|').includes(MANIFEST.serviceType),
  );
  const parts: readonly [string, boolean, string][] = [
    [MANIFEST.background, has(MANIFEST.background), write(MANIFEST.background)],
    [MANIFEST.service, has(MANIFEST.service), write(MANIFEST.service)],
    [MANIFEST.locationService, has(MANIFEST.locationService), write(MANIFEST.locationService)],
    [
      'a service of the type location',
      service !== undefined,
      `Add android:foregroundServiceType="${MANIFEST.serviceType}" to the <service> that follows.`,
    ],
  ];
  const present = parts.filter(([, there]) => there);
  const wanted =
    needs.background || has(MANIFEST.background) || has(MANIFEST.locationService) || service !== undefined;
  if (wanted && present.length < parts.length) {
    for (const [name, there, remedy] of parts) {
      if (there) continue;
      const reason = needs.background
        ? `the code follows with background: true (${needs.where.background ?? ''})`
        : `${present[0]?.[0] ?? ''} is declared`;
      found('error', 'background-half', `${reason}, and ${name} is missing`, remedy);
    }
  }
  if (!needs.background && needs.positions && has(MANIFEST.background)) {
    found(
      'warning',
      'not-needed',
      'the background is declared, but the code never follows with background: true',
      `Take out ${MANIFEST.background}: users refuse permissions that look unnecessary.`,
      lineOf(MANIFEST.background),
    );
  }

  const prompts: PromptPreview[] = [];
  if (any) {
    const choices = MANIFEST_CHOICES.foreground.filter(
      (choice) => has(MANIFEST.precise) || !choice.includes('precise'),
    );
    prompts.push({ file: file.path, level: 'foreground', choices });
  }
  if (has(MANIFEST.background))
    prompts.push({ file: file.path, level: 'background', choices: MANIFEST_CHOICES.background });
  return { findings, prompts };
}

/** Reads attributes of the manifest's namespace, whatever its prefix. */
function namer(root: Element): (element: Element, attribute: string) => string | undefined {
  const declaration = Object.entries(root.attributes).find(
    ([name, uri]) => name.startsWith('xmlns:') && uri === MANIFEST.namespace,
  );
  const prefix = declaration?.[0].slice('xmlns:'.length);
  return (element, attribute) =>
    prefix === undefined ? undefined : element.attributes[`${prefix}:${attribute}`];
}

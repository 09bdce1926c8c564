import type { Finding } from 'aurelian-drift';
import { PAGE_CHOICES } from 'aurelian-drift/internal';
import type { Needs, ProjectFile, PromptPreview } from './project.js';
import { checkAddresses, checkKeys, checkPurposes, needsOf, scriptsOf } from './code.js';
import { checkHeaders } from './headers.js';
import { checkManifest } from './manifest.js';
import { checkPage } from './page.js';
import { checkPlist } from './plist.js';
import { checkVersions } from './versions.js';

/** Result of the preflight check of a project. */
export interface PreflightReport {
  /** Errors first, then by file and line. */
  readonly findings: readonly Finding[];
  /** Prompts that the user will see. */
  readonly prompts: readonly PromptPreview[];
  readonly needs: Needs;
  /** Checked files, with their kinds. */
  readonly looked: readonly { readonly path: string; readonly as: FileKind }[];
}

/** Kind of a file that the preflight check reads. */
export type FileKind =
  'property list' | 'translated texts' | 'manifest' | 'page' | 'headers' | 'code' | 'package';

/** Kind of a file by its name and start; `undefined` for a file that is not checked. */
export function fileKind({ path, text }: ProjectFile): FileKind | undefined {
  const name = path.slice(path.lastIndexOf('/') + 1);
  if (/\.plist$/i.test(name)) return /entitlements/i.test(name) ? undefined : 'property list';
  if (/^InfoPlist\.strings$/i.test(name)) return 'translated texts';
  if (/^AndroidManifest\.xml$/i.test(name)) return 'manifest';
  if (/\.html?$/i.test(name)) return 'page';
  if (/^(?:package|package-lock)\.json$/.test(name)) return 'package';
  if (/^(?:_headers|\.htaccess)$|\.(?:conf|headers)$/i.test(name)) return 'headers';
  if (/\.(?:[cm]?[jt]sx?|vue|svelte)$/i.test(name) && !/\.d\.ts$/.test(name)) return 'code';
  return /^\s*<manifest[\s>]/.test(text) ? 'manifest' : undefined;
}

/**
 * Lists everything in the project of an app that will make positioning fail or be refused: declarations that are
 * missing, misspelt, wrongly typed, misplaced, malformed, incomplete or not needed; empty purpose texts; frames,
 * policies and origins; keys in shared code; versions that do not match.
 *
 * @param own version of this library.
 */
export function preflight(files: readonly ProjectFile[], own: string): PreflightReport {
  const looked = files.flatMap((file) => {
    const as = fileKind(file);
    return as === undefined ? [] : [{ file, as }];
  });
  const of = (...kinds: readonly FileKind[]) =>
    looked.filter(({ as }) => kinds.includes(as)).map(({ file }) => file);
  const code = [...of('code'), ...of('page').map(scriptsOf)];
  const needs = needsOf(code);
  const findings: Finding[] = [];
  const prompts: PromptPreview[] = [];
  const add = (result: { findings: Finding[]; prompts: PromptPreview[] }) => {
    findings.push(...result.findings);
    prompts.push(...result.prompts);
  };
  for (const list of of('property list'))
    add(checkPlist(list, stringsBeside(list, of('translated texts')), needs));
  for (const manifest of of('manifest')) add(checkManifest(manifest, needs));
  for (const page of of('page')) findings.push(...checkPage(page));
  for (const headers of of('headers')) findings.push(...checkHeaders(headers));
  for (const file of code) findings.push(...checkPurposes(file), ...checkKeys(file), ...checkAddresses(file));
  findings.push(...checkVersions(of('package', 'page', 'code'), own));
  if (needs.positions) {
    for (const { path } of of('page'))
      prompts.push({ file: path, level: 'foreground', choices: PAGE_CHOICES });
  }
  return {
    findings: findings.toSorted(bySeverity),
    prompts,
    needs,
    looked: looked.map(({ file, as }) => ({ path: file.path, as })),
  };
}

/** Translated texts beside a list, in LANGUAGE.lproj. */
function stringsBeside(list: ProjectFile, all: readonly ProjectFile[]): Map<string, ProjectFile> {
  const folder = list.path.slice(0, list.path.lastIndexOf('/') + 1);
  const found = new Map<string, ProjectFile>();
  for (const file of all) {
    const match = file.path.startsWith(folder) ? /([A-Za-z-]+)\.lproj\/[^/]+$/.exec(file.path) : null;
    if (match?.[1] !== undefined && match[1] !== 'Base') found.set(match[1], file);
  }
  return found;
}

function bySeverity(a: Finding, b: Finding): number {
  if (a.severity !== b.severity) return a.severity === 'error' ? -1 : 1;
  return a.file.localeCompare(b.file) || (a.line ?? 0) - (b.line ?? 0);
}

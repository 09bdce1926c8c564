import type { Finding } from 'aurelian-drift';
import {
  purposeProblem,
  shortened,
  PLIST,
  PLIST_CHOICES,
  PLIST_KEYS,
  meantKey,
} from 'aurelian-drift/internal';
import { foundIn } from './found.js';
import type { Needs, ProjectFile, PromptPreview } from './project.js';
import { xmlTree, type Element } from './xml-tree.js';

interface PlistEntry {
  readonly key: string;
  readonly line: number;
  readonly value: Element | undefined;
  /** At the top of the list, where the system reads it. */
  readonly top: boolean;
}

interface PlistLevel {
  readonly level: 'foreground' | 'background';
  readonly key: string;
}

const LEVELS: readonly PlistLevel[] = [
  { level: 'foreground', key: PLIST.foreground },
  { level: 'background', key: PLIST.background },
];

/**
 * Checks the property list of an app: purpose texts per level and language, background modes, the default precision.
 *
 * @param strings lists of translated texts, by language.
 */
export function checkPlist(
  file: ProjectFile,
  strings: ReadonlyMap<string, ProjectFile>,
  needs: Needs,
): { findings: Finding[]; prompts: PromptPreview[] } {
  const findings: Finding[] = [];
  const found = foundIn(file, findings);

  if (file.text.startsWith('bplist')) {
    found(
      'error',
      'binary-list',
      'the property list is in its binary form',
      'Check it before the build, in its XML form.',
    );
    return { findings, prompts: [] };
  }
  const tree = xmlTree(file.text);
  if ('problem' in tree) {
    found(
      'error',
      'malformed',
      `the property list is malformed: ${tree.problem}`,
      'Mend it; until then the system reads none of it.',
      tree.line,
    );
    return { findings, prompts: [] };
  }
  const entries = [...entriesOf(tree.root)];
  const top = (key: string) => entries.find((entry) => entry.top && entry.key === key);

  for (const { key, line, value, top: atTop } of entries) {
    const known = Object.hasOwn(PLIST_KEYS, key) ? PLIST_KEYS[key] : undefined;
    if (known === undefined) {
      const meant = meantKey(key);
      if (meant !== undefined) {
        found(
          'error',
          'misspelt',
          `"${key}" is unknown to the system, which ignores it silently`,
          `Write ${meant}.`,
          line,
        );
      }
      continue;
    }
    if (!atTop) {
      found(
        'error',
        'misplaced',
        `${key} stands inside another entry, where the system does not look`,
        'Move it to the top of the list.',
        line,
      );
    }
    const type = typeOf(value);
    if (type !== known.type) {
      found(
        'error',
        'wrong-type',
        `${key} must be ${/^[aeiou]/.test(known.type) ? 'an' : 'a'} ${known.type}, and is ` +
          (type === undefined ? 'missing' : /^[aeiou]/.test(type) ? `an ${type}` : `a ${type}`),
        `Write ${example(key, known.type)}.`,
        line,
      );
    }
    if (known.obsolete !== undefined && top(known.obsolete) === undefined) {
      found(
        'error',
        'obsolete',
        `${key} is read by former systems only`,
        `Write ${known.obsolete} beside it.`,
        line,
      );
    }
  }

  const misspelt = (key: string) =>
    findings.some(({ rule, remedy }) => rule === 'misspelt' && remedy === `Write ${key}.`);
  const textOf = (key: string) => {
    const value = top(key)?.value;
    return typeOf(value) === 'string' ? value?.text : undefined;
  };
  if (needs.positions && top(PLIST.foreground) === undefined && !misspelt(PLIST.foreground)) {
    found(
      'error',
      'missing',
      'there is no purpose text; without it the system refuses silently',
      `Add ${example(PLIST.foreground, 'string')}.`,
    );
  }

  // The background needs both: the text for its prompt, and the mode.
  const mode = top(PLIST.modes)?.value?.children.some((child) => child.text.trim() === PLIST.mode) === true;
  const always = top(PLIST.background) !== undefined;
  if (needs.background || (mode && always)) {
    if (!always && !misspelt(PLIST.background)) {
      found(
        'error',
        'background-half',
        `the background is used (${needs.where.background ?? 'its mode is declared'}), but its purpose text is missing`,
        `Add ${example(PLIST.background, 'string')}.`,
      );
    }
    if (!mode) {
      found(
        'error',
        'background-half',
        `the background is used (${needs.where.background ?? 'its text is declared'}), but its mode is missing`,
        `Add <key>${PLIST.modes}</key><array><string>${PLIST.mode}</string></array>.`,
        top(PLIST.modes)?.line,
      );
    }
  } else if (mode !== always) {
    found(
      'error',
      'background-half',
      mode
        ? 'the background mode is declared without its purpose text'
        : 'the background’s purpose text is declared without its mode',
      `Add the other, or take this out: the code never follows with background: true.`,
      top(mode ? PLIST.modes : PLIST.background)?.line,
    );
  }
  if (!needs.background && needs.positions && mode && always) {
    found(
      'warning',
      'not-needed',
      'the background is declared, but the code never follows with background: true',
      `Take out ${PLIST.background} and the mode "${PLIST.mode}": users refuse permissions that look unnecessary.`,
      top(PLIST.background)?.line,
    );
  }
  const reduced = top(PLIST.reduced);
  if (needs.precise && reduced?.value?.name === 'true') {
    found(
      'error',
      'approximate-only',
      `the code needs precise positions (${needs.where.precise ?? ''}), but the list asks for ` +
        `approximate ones by default`,
      `Take out ${PLIST.reduced}.`,
      reduced.line,
    );
  }

  const prompts: PromptPreview[] = [];
  const seen = new Map<string, string>();
  for (const { level, key } of LEVELS) {
    const entry = top(key);
    const text = textOf(key);
    if (entry === undefined || text === undefined) continue;
    const problem = purposeProblem(text);
    if (problem !== undefined)
      found(
        problem.rule === 'empty-purpose' ? 'error' : 'warning',
        problem.rule,
        `${key}: ${problem.problem}`,
        problem.remedy,
        entry.line,
      );
    const twin = seen.get(text.trim());
    if (twin !== undefined && text.trim() !== '') {
      found(
        'warning',
        'duplicate-purpose',
        `${key} says the same as ${twin}: "${shortened(text.trim())}"`,
        'Say what the user gains while the app is hidden.',
        entry.line,
      );
    }
    seen.set(text.trim(), key);
    prompts.push({ file: file.path, level, text: text.trim(), choices: PLIST_CHOICES[level] });
    for (const language of languagesOf(top(PLIST.languages)?.value, strings)) {
      const list = strings.get(language);
      const translated = list === undefined ? undefined : translationOf(list.text, key);
      if (translated === undefined) {
        found(
          'warning',
          'untranslated',
          `${key} has no text in "${language}"`,
          `Add "${key}" = "…"; to ${language}.lproj/InfoPlist.strings.`,
          entry.line,
        );
        continue;
      }
      const flaw = purposeProblem(translated.text);
      if (flaw !== undefined) {
        findings.push({
          severity: flaw.rule === 'empty-purpose' ? 'error' : 'warning',
          rule: flaw.rule,
          file: list?.path ?? '',
          line: translated.line,
          problem: `${key}: ${flaw.problem}`,
          remedy: flaw.remedy,
        });
      }
      prompts.push({
        file: list?.path ?? '',
        level,
        language,
        text: translated.text,
        choices: PLIST_CHOICES[level],
      });
    }
  }
  return { findings, prompts };
}

/** Every key with its value, at any depth. */
function* entriesOf(root: Element): Generator<PlistEntry> {
  const topDict = root.name === 'plist' ? root.children[0] : root;
  const dicts: Element[] = topDict === undefined ? [] : [topDict];
  for (let dict = dicts.pop(); dict !== undefined; dict = dicts.pop()) {
    let key: Element | undefined;
    for (const child of dict.children) {
      if (child.name === 'key') {
        if (key !== undefined)
          yield { key: key.text.trim(), line: key.line, value: undefined, top: dict === topDict };
        key = child;
        continue;
      }
      if (child.name === 'dict') dicts.push(child);
      if (child.name === 'array') dicts.push(...child.children.filter(({ name }) => name === 'dict'));
      if (key !== undefined)
        yield { key: key.text.trim(), line: key.line, value: child, top: dict === topDict };
      key = undefined;
    }
  }
}

function typeOf(value: Element | undefined): string | undefined {
  return value?.name === 'true' || value?.name === 'false' ? 'boolean' : value?.name;
}

function example(key: string, type: string): string {
  const values: Readonly<Record<string, string>> = {
    string: '<string>Shows you on the map of your round and keeps your trail.</string>',
    array: `<array><string>${PLIST.mode}</string></array>`,
    boolean: '<false/>',
    dict: '<dict>…</dict>',
  };
  return `<key>${key}</key>${values[type] ?? ''}`;
}

function languagesOf(listed: Element | undefined, strings: ReadonlyMap<string, ProjectFile>): string[] {
  const named = listed?.children.map((child) => child.text.trim()) ?? [];
  return [...new Set([...named, ...strings.keys()])].filter(
    (language) => language !== 'en' || strings.has('en'),
  );
}

/** One text of a list of strings: "KEY" = "text"; or KEY = "text"; */
function translationOf(text: string, key: string): { text: string; line: number } | undefined {
  const match = new RegExp(`^\\s*"?${key}"?\\s*=\\s*"((?:[^"\\\\]|\\\\.)*)"\\s*;`, 'm').exec(text);
  if (match?.[1] === undefined) return undefined;
  const line = text.slice(0, match.index + match[0].search(/\S/)).split('\n').length;
  return { text: match[1].replaceAll(/\\(.)/g, '$1').trim(), line };
}

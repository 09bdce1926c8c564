import type { Finding } from 'aurelian-drift';
import { purposeProblem } from 'aurelian-drift/internal';
import { lineAt, type Needs, type ProjectFile } from './project.js';

/** Accuracy in metres from which approximate positions are sufficient. */
const APPROXIMATE_GIVES = 500;

/** Needs of a project, from the calls and options in its code. */
export function needsOf(files: readonly ProjectFile[]): Needs {
  const where: Record<'positions' | 'background' | 'precise', string | undefined> = {
    positions: undefined,
    background: undefined,
    precise: undefined,
  };
  for (const { path, text } of files) {
    const plain = withoutComments(text);
    const note = (
      need: keyof typeof where,
      pattern: RegExp,
      counts: (match: RegExpExecArray) => boolean = () => true,
    ) => {
      if (where[need] !== undefined) return;
      for (const match of plain.matchAll(pattern)) {
        if (!counts(match)) continue;
        where[need] = `${path}:${lineAt(plain, match.index)}`;
        return;
      }
    };
    note(
      'positions',
      /\bfrom\s+['"]aurelian-drift['"]|\bgeolocation\s*\.\s*(?:getCurrentPosition|watchPosition)/g,
    );
    note('background', /\bbackground\s*:\s*true\b/g);
    note(
      'precise',
      /\baccuracy\s*:\s*([\d._]+)|\bprofile\s*:\s*['"](?:stroll|round)['"]|\benableHighAccuracy\s*:\s*true/g,
      ([, metres]) => metres === undefined || Number(metres.replaceAll('_', '')) < APPROXIMATE_GIVES,
    );
  }
  const unstated = files.some(({ text }) =>
    [...withoutComments(text).matchAll(/\.(?:fix|follow)\(\s*(\{[^}]*\})?/g)].some(
      ([, options = '']) => !/\b(?:accuracy|profile)\b/.test(options),
    ),
  );
  return {
    unstated,
    positions: where.positions !== undefined,
    background: where.background !== undefined,
    precise: where.precise !== undefined,
    where,
  };
}

/** Purpose texts in the code, where they are literals. */
export function checkPurposes({ path, text }: ProjectFile): Finding[] {
  const plain = withoutComments(text);
  return [...plain.matchAll(/\bpurpose\s*:\s*(["'])((?:(?!\1)[^\\\n])*)\1/g)].flatMap((match) => {
    const problem = purposeProblem(match[2] ?? '');
    if (problem === undefined) return [];
    return [{ severity: 'warning' as const, file: path, line: lineAt(plain, match.index), ...problem }];
  });
}

/** A literal that looks like a key: long, with letters and digits. */
const KEY_VALUE = /^(?=.*\d)(?=.*[a-z])[\w-]{20,}$/i;

/** Finds keys in code that everybody who opens the page receives. */
export function checkKeys({ path, text }: ProjectFile): Finding[] {
  const findings: Finding[] = [];
  const plain = withoutComments(text);
  const found = (index: number, name: string) =>
    findings.push({
      severity: 'warning',
      rule: 'key-in-code',
      file: path,
      line: lineAt(plain, index),
      problem: `a key is written into the code (${name}), where everybody can read it`,
      remedy:
        'Keep it on your server, or give it to the build from outside; and replace the one that was shared.',
    });
  for (const match of plain.matchAll(
    /\b(\w*(?:key|token|secret)\w*)["']?\s*[:=]\s*["'`]([^"'`\n]+)["'`]/gi,
  )) {
    if (KEY_VALUE.test(match[2] ?? '')) found(match.index, match[1] ?? '');
  }
  for (const match of plain.matchAll(/https?:\/\/[^\s"'`]*[?&](\w*(?:key|token))=([\w-]+)/gi)) {
    if (KEY_VALUE.test(match[2] ?? '')) found(match.index, match[1] ?? '');
  }
  return findings;
}

/** Finds addresses of insecure servers that positions would be sent to or tiles loaded from. */
export function checkAddresses({ path, text }: ProjectFile): Finding[] {
  const plain = withoutComments(text);
  const findings: Finding[] = [];
  for (const match of plain.matchAll(/["'`](http|ws):\/\/([^\s"'`/:]+)[^"'`]*["'`]/gi)) {
    const [, scheme = '', host = ''] = match;
    if (/^(?:localhost|127(?:\.\d+){3}|\[::1\]|.*\.localhost|www\.w3\.org|schemas\..*)$/i.test(host))
      continue;
    const secure = scheme.toLowerCase() === 'ws' ? 'wss' : 'https';
    findings.push({
      severity: 'error',
      rule: 'insecure-origin',
      file: path,
      line: lineAt(plain, match.index),
      problem: `${host} is addressed over ${scheme.toLowerCase()}, which a secure page may not use`,
      remedy: `Write ${secure}://${host}.`,
    });
  }
  return findings;
}

/** A page with everything except its scripts replaced by spaces, so that lines stay the same. */
export function scriptsOf({ path, text }: ProjectFile): ProjectFile {
  const blank = (part: string) => part.replaceAll(/[^\n]/g, ' ');
  let kept = '';
  let end = 0;
  for (const match of text.matchAll(/(<script\b[^>]*>)([\s\S]*?)<\/script>/gi)) {
    const start = match.index + (match[1]?.length ?? 0);
    kept += blank(text.slice(end, start)) + (match[2] ?? '');
    end = start + (match[2]?.length ?? 0);
  }
  return { path, text: kept + blank(text.slice(end)) };
}

/** Code with comments replaced by spaces, so that they do not count, and lines stay the same. */
function withoutComments(text: string): string {
  return text.replaceAll(/\/\*[\s\S]*?\*\/|(?<![:"'`\w])\/\/[^\n]*|<!--[\s\S]*?-->/g, (comment) =>
    comment.replaceAll(/[^\n]/g, ' '),
  );
}

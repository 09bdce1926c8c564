import type { Finding } from 'aurelian-drift';
import { purposeProblem } from 'aurelian-drift/internal';
import { lineAt, type Needs, type ProjectFile } from './project.js';

/** Metres from which approximate positions will do. */
const APPROXIMATE_GIVES = 500;

/** What the code of a project asks for, read from the calls and options it writes. */
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

/** Purposes that the code gives, as far as they stand there as text. */
export function checkPurposes({ path, text }: ProjectFile): Finding[] {
  const plain = withoutComments(text);
  return [...plain.matchAll(/\bpurpose\s*:\s*(["'])((?:(?!\1)[^\\\n])*)\1/g)].flatMap((match) => {
    const problem = purposeProblem(match[2] ?? '');
    if (problem === undefined) return [];
    return [{ severity: 'warning' as const, file: path, line: lineAt(plain, match.index), ...problem }];
  });
}

/** A literal that looks like a key: long, of letters and digits both, and no word. */
const KEY_VALUE = /^(?=.*\d)(?=.*[a-z])[\w-]{20,}$/i;

/** Keys pasted into code that is shared with everybody who opens the page. */
export function checkKeys({ path, text }: ProjectFile): Finding[] {
  const findings: Finding[] = [];
  const plain = withoutComments(text);
  const found = (index: number, name: string) =>
    findings.push({
      severity: 'warning',
      rule: 'key-in-code',
      file: path,
      line: lineAt(plain, index),
      problem: `a key is written into the code (${name}), for everybody to read`,
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

/** Addresses of insecure servers that positions would be sent to or tiles come from. */
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

/** A page with everything but its scripts made blank, so that what is found in them keeps its line. */
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

/** Comments made blank, their line ends kept, so that what is only talked of does not count. */
function withoutComments(text: string): string {
  return text.replaceAll(/\/\*[\s\S]*?\*\/|(?<![:"'`\w])\/\/[^\n]*|<!--[\s\S]*?-->/g, (comment) =>
    comment.replaceAll(/[^\n]/g, ' '),
  );
}

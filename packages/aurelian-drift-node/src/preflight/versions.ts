import type { Finding } from 'aurelian-drift';
import { lineAt, type ProjectFile } from './project.js';

/** A version of this library in a project, with its place. */
interface Mention {
  readonly file: string;
  readonly line: number;
  readonly version: string;
}

/** Finds versions of this library that do not match: in package files, locks, import maps and shells. */
export function checkVersions(files: readonly ProjectFile[], own: string): Finding[] {
  const mentions = files.flatMap(mentionsIn);
  const findings: Finding[] = [];
  const first = mentions[0];
  const others = mentions.filter(
    ({ version }) => first !== undefined && lineOf(version) !== lineOf(first.version),
  );
  for (const { file, line, version } of others) {
    findings.push({
      severity: 'error',
      rule: 'versions-differ',
      file,
      line,
      problem:
        `aurelian-drift ${version} is named here, and ${first?.version ?? ''} in ` +
        `${first?.file ?? ''}:${first?.line ?? ''}`,
      remedy: 'Name one version everywhere.',
    });
  }
  if (first !== undefined && others.length === 0 && lineOf(first.version) !== lineOf(own)) {
    findings.push({
      severity: 'warning',
      rule: 'versions-differ',
      file: first.file,
      line: first.line,
      problem: `the project names aurelian-drift ${first.version}, and was checked by ${own}`,
      remedy: 'Check it with the version that it uses.',
    });
  }
  return findings;
}

function mentionsIn({ path, text }: ProjectFile): Mention[] {
  const patterns = /(?:^|\/)package\.json$/.test(path)
    ? [/"aurelian-drift"\s*:\s*"[\^~>=v]*(\d+\.\d+\.\d+[^"]*)"/g]
    : /(?:^|\/)package-lock\.json$/.test(path)
      ? [/"node_modules\/(?:[^"]*\/)?aurelian-drift"\s*:\s*\{\s*"version"\s*:\s*"([^"]+)"/g]
      : [/\baurelian-drift@(\d+\.\d+\.\d+)/g];
  return patterns.flatMap((pattern) =>
    [...text.matchAll(pattern)].map((match) => ({
      file: path,
      line: lineAt(text, match.index),
      version: match[1] ?? '',
    })),
  );
}

/** Versions match when they have the same major, and below 1 the same minor (Semantic Versioning 2.0.0). */
function lineOf(version: string): string {
  const [major = '', minor = ''] = version.split('.');
  return major === '0' ? `0.${minor}` : major;
}

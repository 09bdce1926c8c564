import type { Finding } from 'aurelian-drift';
import { headerPolicyProblem, POLICY } from 'aurelian-drift/internal';
import type { ProjectFile } from './project.js';

/**
 * Checks a header file of a server in any format: a policy is found in each line by its name, with its value after a
 * colon, in quotes, or after a space.
 */
export function checkHeaders(file: ProjectFile): Finding[] {
  const findings: Finding[] = [];
  file.text.split('\n').forEach((text, i) => {
    if (/^\s*#/.test(text)) return;
    const match = new RegExp(`(${POLICY.header}|${POLICY.former})["']?\\s*[:\\s]\\s*(.*)$`, 'i').exec(text);
    if (match === null) return;
    const [, name = '', rest = ''] = match;
    const value = unquoted(rest.trim().replace(/(?:\s+always)?\s*;?\s*$/i, ''));
    const at = { file: file.path, line: i + 1 };
    if (name.toLowerCase() === POLICY.former) {
      if (!value.includes(POLICY.feature)) return;
      findings.push({
        severity: 'warning',
        rule: 'obsolete',
        ...at,
        problem: 'Feature-Policy is the old name, which browsers ignore',
        remedy: `Write Permissions-Policy: ${POLICY.feature}=(self).`,
      });
      return;
    }
    const problem = headerPolicyProblem(value);
    if (problem !== undefined) findings.push({ severity: 'error', ...at, ...problem });
  });
  return findings;
}

/** The value without the quotes of a configuration. */
function unquoted(text: string): string {
  const match = /^(["'])(.*)\1$/.exec(text);
  return match?.[2] ?? text;
}

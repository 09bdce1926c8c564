import { closest } from '../core/check/suggest.js';
import { POLICY } from './declarations.js';

/** Problem of a policy with positioning: a rule, a description, and a remedy. */
export interface PolicyProblem {
  readonly rule: 'barred-by-policy' | 'malformed' | 'misspelt' | 'obsolete';
  readonly problem: string;
  readonly remedy: string;
}

/** Checks the value of a Permissions-Policy header (a structured dictionary, RFC 9651). */
export function headerPolicyProblem(value: string): PolicyProblem | undefined {
  for (const member of value.split(',').map((part) => part.trim())) {
    const name = /^[^\s=]*/.exec(member)?.[0] ?? '';
    const allowed = member.slice(name.length).trim().replace(/^=\s*/, '');
    if (name !== POLICY.feature) {
      if (closest(name, [POLICY.feature]) === undefined) continue;
      return {
        rule: 'misspelt',
        problem: `the policy names "${name}", which does not exist`,
        remedy: `Write ${POLICY.feature}=(self).`,
      };
    }
    if (allowed === '()' || allowed === "'none'") {
      return {
        rule: 'barred-by-policy',
        problem: 'the policy bars every page from asking for positions',
        remedy: `Write ${POLICY.feature}=(self), or leave ${POLICY.feature} out.`,
      };
    }
    if (allowed === '*' || /^\((?:self|\*|src|"https?:\/\/[^"]+"|\s)*\)$/.test(allowed) || allowed === 'self')
      return undefined;
    return {
      rule: 'malformed',
      problem: `the policy's value "${allowed}" is malformed, and the browser ignores all of it`,
      remedy: `Write ${POLICY.feature}=(self), with parentheses and no quotes around self.`,
    };
  }
  return undefined;
}

/** Checks the `allow` of a frame. */
export function frameAllowProblem(allow: string): PolicyProblem | undefined {
  for (const part of allow.split(';').map((each) => each.trim())) {
    const [name = '', ...origins] = part.split(/\s+/);
    if (name === POLICY.feature) {
      return origins.includes("'none'")
        ? {
            rule: 'barred-by-policy',
            problem: 'the frame is barred from asking for positions',
            remedy: `Write allow="${POLICY.feature}".`,
          }
        : undefined;
    }
    const clean = name.replace(/[^a-z]/gi, '').toLowerCase();
    if (name !== '' && (clean === POLICY.feature || closest(name, [POLICY.feature]) !== undefined)) {
      return {
        rule: 'misspelt',
        problem: `the frame allows "${name}", which does not exist`,
        remedy: `Write allow="${POLICY.feature}".`,
      };
    }
  }
  return undefined;
}

/** Whether the `allow` of a frame permits a request for positions. */
export function frameAllows(allow: string): boolean {
  return allow.split(';').some((part) => part.trim().split(/\s+/)[0] === POLICY.feature);
}

/** Whether an address has another origin than the files of the page, and whether browsers allow positioning there. */
export function originOf(address: string): {
  readonly other: boolean;
  readonly secure: boolean;
  readonly host: string;
} {
  const match = /^(https?):\/\/([^/:?#]+)/i.exec(address.trim());
  if (match === null) return { other: false, secure: true, host: '' };
  const [, scheme = '', host = ''] = match;
  const local = /^(?:localhost|127(?:\.\d+){3}|\[::1\]|.+\.localhost)$/i.test(host);
  return { other: true, secure: scheme.toLowerCase() === 'https' || local, host };
}

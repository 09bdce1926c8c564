import type { Receiver } from '../receiver/receiver.js';
import type { Finding } from './finding.js';
import { frameAllowProblem, frameAllows, originOf } from './policy.js';
import { purposeProblem } from './purpose-text.js';

/**
 * Checks a running page for everything that will make positioning fail or be refused. Never prompts.
 *
 * For development: call it once when the app starts, and show or log the result.
 */
export async function preflightPage(receiver: Receiver): Promise<Finding[]> {
  const findings: Finding[] = [];
  const file = typeof location === 'undefined' ? 'the app' : location.href;
  const found = (severity: Finding['severity'], rule: string, problem: string, remedy: string) =>
    findings.push({ severity, rule, file, problem, remedy });
  const access = await receiver.readAccess();
  if (access.support === 'no') {
    found('error', 'unsupported', 'there is no positioning interface here', 'Offer a typed place instead.');
  }
  if (access.secure === 'no') {
    found(
      'error',
      'insecure-origin',
      'the page has an insecure origin, where browsers give no positions',
      'Serve it over https, or from localhost while developing.',
    );
  }
  if (access.policy === 'forbidden') {
    found(
      'error',
      'barred-by-policy',
      'the permissions policy bars this document from asking',
      'Send Permissions-Policy: geolocation=(self), and give a frame allow="geolocation".',
    );
  }
  for (const name of access.undeclared)
    found('error', 'missing', `the app does not declare ${name}`, `Declare ${name}.`);
  const problem = purposeProblem(receiver.purpose);
  if (problem !== undefined) found('warning', problem.rule, problem.problem, problem.remedy);
  if (typeof document === 'undefined') return findings;
  for (const frame of document.querySelectorAll('iframe')) {
    const misspelt = frameAllowProblem(frame.allow);
    const { other, host } = originOf(frame.src);
    if (misspelt !== undefined) found('error', misspelt.rule, misspelt.problem, misspelt.remedy);
    else if (other && host !== location.hostname && !frameAllows(frame.allow)) {
      found(
        'warning',
        'frame-without-leave',
        `the page of ${host} in a frame may not ask for positions`,
        'If it is meant to, write allow="geolocation".',
      );
    }
  }
  return findings;
}

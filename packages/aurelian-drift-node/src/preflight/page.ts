import { parse, type DefaultTreeAdapterTypes } from 'parse5';
import type { Finding } from 'aurelian-drift';
import { frameAllowProblem, frameAllows, originOf, POLICY } from 'aurelian-drift/internal';
import type { ProjectFile } from './project.js';

type Node = DefaultTreeAdapterTypes.Node;
type PageElement = DefaultTreeAdapterTypes.Element;

/** Checks a page: its frames, the origins that it loads from, and policies in places without an effect. */
export function checkPage(file: ProjectFile): Finding[] {
  const findings: Finding[] = [];
  const document = parse(file.text, { sourceCodeLocationInfo: true });
  for (const element of elementsOf(document)) {
    const line = element.sourceCodeLocation?.startLine;
    const at = { file: file.path, ...(line !== undefined && { line }) };
    const attribute = (name: string) => element.attrs.find((each) => each.name === name)?.value;
    if (element.tagName === 'iframe') {
      const { other, secure, host } = originOf(attribute('src') ?? '');
      const allow = attribute('allow') ?? '';
      const problem = frameAllowProblem(allow);
      if (problem !== undefined) {
        findings.push({ severity: 'error', ...at, ...problem });
      } else if (other && !frameAllows(allow)) {
        findings.push({
          severity: 'warning',
          rule: 'frame-without-leave',
          ...at,
          problem: `the page of ${host} in this frame may not ask for positions`,
          remedy: `If it is meant to, write allow="${POLICY.feature}".`,
        });
      }
      if (other && !secure && frameAllows(allow)) findings.push(insecure(at, host));
    }
    const link =
      element.tagName === 'a'
        ? undefined
        : (attribute('src') ?? (element.tagName === 'form' ? attribute('action') : undefined));
    if (link !== undefined && element.tagName !== 'iframe' && !originOf(link).secure)
      findings.push(insecure(at, originOf(link).host));
    if (element.tagName === 'meta' && attribute('http-equiv')?.toLowerCase() === POLICY.header) {
      findings.push({
        severity: 'warning',
        rule: 'misplaced',
        ...at,
        problem: 'a Permissions-Policy in a meta element has no effect',
        remedy: 'Send it as a header of the page’s server.',
      });
    }
  }
  return findings;
}

function insecure(at: { file: string; line?: number }, host: string): Finding {
  return {
    severity: 'error',
    rule: 'insecure-origin',
    ...at,
    problem: `${host} is addressed over http, and browsers give no positions to an insecure origin`,
    remedy: `Write https://${host}.`,
  };
}

function* elementsOf(node: Node): Generator<PageElement> {
  if ('tagName' in node) yield node;
  if ('childNodes' in node) for (const child of node.childNodes) yield* elementsOf(child);
}

import { SaxesParser } from 'saxes';

/** An XML element with its line. */
export interface Element {
  /** With its prefix, as written. */
  readonly name: string;
  readonly attributes: Readonly<Record<string, string>>;
  readonly line: number;
  readonly children: Element[];
  readonly parent: Element | undefined;
  text: string;
}

/** The root of an XML document, or the syntax error with its line. Entities of the document are never expanded. */
export function xmlTree(text: string): { root: Element } | { problem: string; line: number } {
  const parser = new SaxesParser({ position: true });
  let root: Element | undefined;
  let open: Element | undefined;
  let problem: { problem: string; line: number } | undefined;
  parser.on('opentag', ({ name, attributes }) => {
    const element: Element = {
      name,
      attributes: attributes as Record<string, string>,
      line: parser.line,
      children: [],
      parent: open,
      text: '',
    };
    open?.children.push(element);
    root ??= element;
    open = element;
  });
  parser.on('text', (piece) => {
    if (open !== undefined) open.text += piece;
  });
  parser.on('cdata', (piece) => {
    if (open !== undefined) open.text += piece;
  });
  parser.on('closetag', () => (open = open?.parent));
  parser.on('error', ({ message }) => {
    problem ??= { problem: message.replace(/^[\d:]+ /, ''), line: parser.line };
  });
  parser.write(text).close();
  if (problem !== undefined) return problem;
  return root === undefined ? { problem: 'there is no element in it', line: 1 } : { root };
}

/** All elements below one, including itself. */
export function* within(element: Element): Generator<Element> {
  yield element;
  for (const child of element.children) yield* within(child);
}

import {
  findNodeAtLocation,
  parse,
  parseTree,
  printParseErrorCode,
  type Node,
  type ParseError,
} from 'jsonc-parser';
import { InputError } from 'aurelian-drift';

/** Parses and reads JSON; errors get the line of their path. */
export function fromJson<T>(text: string, source: string, read: (document: unknown) => T): T {
  const { document, problem } = parsedJson(text, source);
  if (problem !== undefined) throw problem;
  return located(text, source, () => read(document));
}

/** Result of reading parsed JSON; its errors get the line of their path in the text. */
export function located<T>(text: string, source: string, read: () => T): T {
  try {
    return read();
  } catch (error) {
    throw error instanceof InputError ? locator(text, source)(error) : error;
  }
}

/** The document of a JSON text, or the syntax error with the part of the document before it. */
export function parsedJson(text: string, source: string): { document: unknown; problem?: InputError } {
  try {
    return { document: JSON.parse(text) as unknown };
  } catch {
    // The parser of the platform is fast; this one gives the line.
    return jsonError(text, source);
  }
}

/** Maximum nesting: more is an attack on the stack of the parser. */
const DEEPEST = 500;

function jsonError(text: string, source: string): { document: unknown; problem: InputError } {
  const deep = tooDeepAt(text);
  if (deep !== undefined) {
    const reason = `brackets stand more than ${DEEPEST} deep in one another`;
    return {
      document: undefined,
      problem: new InputError('not-this-format', reason, { source, line: lineAt(text, deep) }),
    };
  }
  const errors: ParseError[] = [];
  const document: unknown = parse(text, errors, { allowTrailingComma: false, disallowComments: true });
  const first = errors[0] as ParseError;
  const code = printParseErrorCode(first.error);
  const cutShort = code.startsWith('UnexpectedEnd') || text.slice(first.offset).trim() === '';
  const reason = cutShort
    ? 'the file ends in the middle; it was cut short'
    : `this is not JSON: ${code.replaceAll(/(?!^)([A-Z])/g, ' $1').toLowerCase()}`;
  const problem = new InputError(cutShort ? 'cut-short' : 'not-this-format', reason, {
    source,
    line: lineAt(text, first.offset),
  });
  return { document, problem };
}

function tooDeepAt(text: string): number | undefined {
  let depth = 0;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    if (code === 91 || code === 123) depth++;
    else if (code === 93 || code === 125) depth--;
    else if (code === 34) {
      i++;
      while (i < text.length && text.charCodeAt(i) !== 34) i += text.charCodeAt(i) === 92 ? 2 : 1;
    }
    if (depth > DEEPEST) return i;
  }
  return undefined;
}

/** Adds the source, and the line of their path, to errors about a JSON text. */
export function locator(text: string, source: string): (error: InputError) => InputError {
  let tree: Node | undefined;
  return (error) => {
    const { path } = error.place;
    if (path === undefined) return error.at({ source });
    tree ??= parseTree(text);
    const node = tree === undefined ? undefined : nearestNode(tree, path);
    return error.at({ source, ...(node !== undefined && { line: lineAt(text, node.offset) }) });
  };
}

/** The value at a path, or at the longest existing part of it. */
function nearestNode(tree: Node, path: readonly (string | number)[]): Node {
  for (let length = path.length; length > 0; length--) {
    const node = findNodeAtLocation(tree, path.slice(0, length));
    if (node !== undefined) return node;
  }
  return tree;
}

function lineAt(text: string, offset: number): number {
  return text.slice(0, offset).split('\n').length;
}

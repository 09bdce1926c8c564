import { readFile } from 'node:fs/promises';
import { text as textOf } from 'node:stream/consumers';
import {
  findNodeAtLocation,
  parse,
  parseTree,
  printParseErrorCode,
  type Node,
  type ParseError,
} from 'jsonc-parser';
import { InputError } from '../core/check/input-error.js';

/** Text of a file, or of standard input for `-`, with the name it goes by in errors. */
export async function readText(path: string): Promise<{ text: string; source: string }> {
  const raw = path === '-' ? await textOf(process.stdin) : await readFile(path, 'utf8');
  const source = path === '-' ? 'standard input' : path;
  const text = raw.startsWith('\uFEFF') ? raw.slice(1) : raw;
  if (text.trim() === '') throw new InputError('cut-short', 'the file is empty', { source, line: 1 });
  return { text, source };
}

/** Parses JSON and reads it; errors get the line that their path leads to. */
export function fromJson<T>(text: string, source: string, read: (document: unknown) => T): T {
  const errors: ParseError[] = [];
  const document: unknown = parse(text, errors, { allowTrailingComma: false, disallowComments: true });
  const first = errors[0];
  if (first !== undefined) {
    const cutShort = text.slice(first.offset).trim() === '';
    const reason = cutShort
      ? 'the file ends in the middle; it was cut short'
      : `this is not JSON: ${printParseErrorCode(first.error)
          .replaceAll(/(?!^)([A-Z])/g, ' $1')
          .toLowerCase()}`;
    throw new InputError(cutShort ? 'cut-short' : 'not-this-format', reason, {
      source,
      line: lineAt(text, first.offset),
    });
  }
  try {
    return read(document);
  } catch (error) {
    throw error instanceof InputError ? locator(text, source)(error) : error;
  }
}

/** What gives errors about a JSON text its source, and the line that their path leads to. */
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

/** The value at a path, or of the longest beginning of it that is there. */
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

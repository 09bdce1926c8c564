import { SaxesParser, type SaxesTagPlain } from 'saxes';
import { InputError } from '../check/input-error.js';

/** Maximum nesting of elements: formats of tracks have about ten levels. */
const DEEPEST = 100;
/** Maximum characters without a tag: a name or a number, not a book. */
const LONGEST_TEXT = 1_000_000;

/**
 * A streaming XML parser whose errors are `InputError`s with source, line and column. It expands no entities of a file.
 */
export class XmlParser {
  readonly #parser = new SaxesParser();
  readonly #source: string | undefined;
  readonly #longest: number;
  /** Characters since the last tag: the parser keeps a text until it ends. */
  #run = 0;

  /**
   * The reader counts the nesting, and calls `checkDepth`.
   *
   * @param longest maximum characters without a tag.
   */
  constructor(
    source: string | undefined,
    open: (tag: SaxesTagPlain) => void,
    close: (tag: SaxesTagPlain) => void,
    text: (text: string) => void,
    longest = LONGEST_TEXT,
  ) {
    this.#source = source;
    this.#longest = longest;
    this.#parser.on('error', (error) => {
      throw this.#broken(error.message);
    });
    this.#parser.on('opentag', open);
    this.#parser.on('closetag', close);
    this.#parser.on('text', text);
    this.#parser.on('cdata', text);
  }

  /** @throws {InputError} for too deeply nested elements. */
  checkDepth(depth: number): void {
    if (depth > DEEPEST)
      throw this.error('not-this-format', `elements stand more than ${DEEPEST} deep in one another`);
  }

  get line(): number {
    return this.#parser.line;
  }

  /** @throws {InputError} for what is not well-formed. */
  write(text: string): void {
    const tag = text.lastIndexOf('<');
    this.#run = tag < 0 ? this.#run + text.length : text.length - tag;
    if (this.#run > this.#longest)
      throw this.error('not-this-format', `there is no tag in over ${this.#longest} characters`);
    this.#parser.write(text);
  }

  /** @throws {InputError} of kind `cut-short` when the text ends too soon. */
  end(): void {
    this.#parser.close();
  }

  error(
    kind: 'not-this-format' | 'impossible-position' | 'impossible-fix' | 'cut-short',
    reason: string,
  ): InputError {
    const { line, column } = this.#parser;
    return new InputError(kind, reason, {
      ...(this.#source !== undefined && { source: this.#source }),
      line,
      column,
    });
  }

  /** The parser's own complaint, without the place it puts before it. */
  #broken(message: string): InputError {
    const reason = message.replace(/^(.*?:)?\d+:\d+: /, '').replace(/\.$/, '');
    const unclosed = /^unclosed tag: (.+)$/.exec(reason);
    if (unclosed !== null)
      return this.error('cut-short', `the file ends inside <${unclosed[1] ?? ''}>; it was cut short`);
    if (reason.startsWith('unexpected end'))
      return this.error('cut-short', 'the file ends in the middle of a tag; it was cut short');
    return this.error('not-this-format', `this is not well-formed XML: ${reason}`);
  }
}

/** The name of an element without its prefix. */
export function localName(name: string): string {
  const colon = name.indexOf(':');
  return colon < 0 ? name : name.slice(colon + 1);
}

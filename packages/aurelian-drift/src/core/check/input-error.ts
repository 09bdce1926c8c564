/** What can be wrong with data that comes in. */
export type InputErrorKind =
  | 'impossible-position'
  | 'impossible-fix'
  | 'not-this-format'
  | 'cut-short'
  | 'nothing-inside'
  | 'bad-value'
  | 'unknown-option';

/** Where in the input: a file or a name for it, a line and column counted from 1, or a path of keys. */
export interface InputPlace {
  readonly source?: string;
  readonly line?: number;
  readonly column?: number;
  readonly path?: readonly (string | number)[];
}

/**
 * Input that cannot be taken: what is wrong, where, and what to do.
 *
 * `message` holds all three on one line; the parts stand apart for programs.
 */
export class InputError extends Error {
  override readonly name = 'InputError';
  readonly kind: InputErrorKind;
  readonly reason: string;
  readonly place: InputPlace;
  readonly remedy: string | undefined;

  constructor(kind: InputErrorKind, reason: string, place: InputPlace = {}, remedy?: string) {
    super(`${placeText(place)}${reason}${remedy === undefined ? '' : `. ${remedy}`}`);
    this.kind = kind;
    this.reason = reason;
    this.place = place;
    this.remedy = remedy;
  }

  /** The same error, with what a caller further out knows of its place. */
  at(place: InputPlace): InputError {
    return new InputError(this.kind, this.reason, { ...this.place, ...place }, this.remedy);
  }
}

function placeText({ source, line, column, path }: InputPlace): string {
  const parts = [source, line, line === undefined ? undefined : column].filter((part) => part !== undefined);
  const start = parts.length > 0 ? `${parts.join(':')}: ` : '';
  return path !== undefined && path.length > 0 && line === undefined ? `${start}${path.join('.')}: ` : start;
}

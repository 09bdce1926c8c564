/** Kind of problem with input data. */
export type InputErrorKind =
  | 'impossible-position'
  | 'impossible-fix'
  | 'not-this-format'
  | 'cut-short'
  | 'nothing-inside'
  | 'bad-value'
  | 'unknown-option';

/** Place of a problem in the input: a file or its name, a line and column counted from 1, or a path of keys. */
export interface InputPlace {
  readonly source?: string;
  readonly line?: number;
  readonly column?: number;
  readonly path?: readonly (string | number)[];
}

/**
 * Thrown for input that cannot be used. It states the problem, its place and the remedy.
 *
 * `message` has all three on one line; the properties have them one by one.
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

  /** Returns the same error with more of its place, as a caller further out knows it. */
  at(place: InputPlace): InputError {
    return new InputError(this.kind, this.reason, { ...this.place, ...place }, this.remedy);
  }
}

function placeText({ source, line, column, path }: InputPlace): string {
  const parts = [source, line, line === undefined ? undefined : column].filter((part) => part !== undefined);
  const start = parts.length > 0 ? `${parts.join(':')}: ` : '';
  return path !== undefined && path.length > 0 && line === undefined ? `${start}${path.join('.')}: ` : start;
}

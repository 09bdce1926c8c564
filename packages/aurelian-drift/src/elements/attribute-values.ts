import { InputError } from '../core/check/input-error.js';
import { formatValue } from '../core/check/number.js';
import { closest } from '../core/check/suggest.js';
import { position, type Position } from '../core/geodesy/position.js';

/** A position in an attribute, `LAT,LON`. @param owner element and attribute, for the error. @throws {InputError} */
export function placeOf(owner: string, given: string): Position {
  const [lat, lon, ...more] = numbersOf(given);
  if (lat === undefined || lon === undefined || more.length > 0)
    throw new InputError(
      'bad-value',
      `${owner} is written LAT,LON, like 44.2,-33.6; got ${formatValue(given)}`,
    );
  return position(lat, lon);
}

/** Positions in an attribute, `LAT,LON LAT,LON …`. @throws {InputError} */
export function placesOf(owner: string, given: string): Position[] {
  return given
    .trim()
    .split(/\s+/)
    .map((each) => placeOf(owner, each));
}

/** Numbers that commas separate; `NaN` for what is none. */
export function numbersOf(given: string): number[] {
  return given.split(',').map((part) => (part.trim() === '' ? NaN : Number(part)));
}

/** A number in an attribute. @throws {InputError} */
export function numberOf(owner: string, given: string): number {
  const [number = NaN, ...more] = numbersOf(given);
  if (Number.isNaN(number) || more.length > 0)
    throw new InputError('bad-value', `${owner} must be a number, got ${formatValue(given)}`);
  return number;
}

/** Tells the attributes of an element whose names look like misspelt ones; others belong to the page. */
export function tellMisspelt(element: Element, known: readonly string[]): void {
  for (const { name } of element.attributes) {
    const meant = known.includes(name) ? undefined : closest(name, known, 0.2);
    if (meant !== undefined)
      tellAuthor(`<${element.localName}> has no attribute "${name}", did you mean "${meant}"?`);
  }
}

/** An element cannot throw to the author of its markup; the console shows the error. */
export function tellAuthor(error: unknown): void {
  // eslint-disable-next-line no-console -- what is wrong with a page's markup is for its developer
  console.error(error instanceof Error ? error.message : String(error));
}

import { InputError } from '../check/input-error.js';
import { numberProblem, formatValue } from '../check/number.js';
import { ourWordFor } from '../check/other-words.js';

/** A point on the ground: degrees on WGS 84, latitude −90…90 north, longitude −180…180 east. */
export interface Position {
  readonly lat: number;
  readonly lon: number;
}

/**
 * Problem with a pair of coordinates, in words; `undefined` when there is none.
 *
 * A latitude outside ±90 beside a longitude within ±90 is reported as swapped coordinates, because that is nearly
 * always the cause.
 */
export function positionProblem(lat: unknown, lon: unknown): string | undefined {
  const problem = numberProblem('latitude', lat) ?? numberProblem('longitude', lon);
  if (problem !== undefined) return problem;
  const [north, east] = [Math.abs(lat as number), Math.abs(lon as number)];
  if (north > 90)
    return (
      `latitude ${lat as number} is outside ` +
      `−90…90${north <= 180 && east <= 90 ? '; latitude and longitude swapped?' : ''}`
    );
  return east > 180 ? `longitude ${lon as number} is outside −180…180` : undefined;
}

/**
 * A checked position.
 *
 * @throws {InputError} of kind `impossible-position` naming the number and the range.
 */
export function position(lat: number, lon: number): Position {
  const problem = positionProblem(lat, lon);
  if (problem !== undefined) throw new InputError('impossible-position', problem);
  return { lat, lon };
}

const FIELDS = ['lat', 'lon'] as const;

/**
 * Problem with an object as a position, in words; `undefined` when there is none. A field name of another interface is
 * answered with ours.
 */
export function placeProblem(at: unknown): string | undefined {
  if (typeof at !== 'object' || at === null) return `a position is { lat, lon }, got ${formatValue(at)}`;
  const { lat, lon } = at as Partial<Position>;
  if (lat === undefined || lon === undefined) {
    for (const name of Object.keys(at)) {
      const ours = ourWordFor(name, FIELDS);
      if (ours !== undefined) return `a position has no "${name}", ${ours}`;
    }
  }
  return positionProblem(lat, lon);
}

/**
 * The position in an object, without its other fields.
 *
 * @throws {InputError} of kind `impossible-position` that names the number and the range, or the field.
 */
export function positionOf(at: Position): Position {
  const problem = placeProblem(at);
  if (problem !== undefined) throw new InputError('impossible-position', problem);
  return { lat: at.lat, lon: at.lon };
}

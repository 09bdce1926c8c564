import { InputError } from '../check/input-error.js';

/** A point on the ground: degrees on WGS 84, latitude −90…90 north, longitude −180…180 east. */
export interface Position {
  readonly lat: number;
  readonly lon: number;
}

/**
 * What is wrong with a pair of coordinates, in words, or `undefined` when nothing is.
 *
 * A latitude outside ±90 beside a longitude that would do as one is called out as a swap, because that
 * is nearly always what happened.
 */
export function positionFault(lat: unknown, lon: unknown): string | undefined {
  if (typeof lat !== 'number') return `latitude must be a number, got ${shown(lat)}`;
  if (typeof lon !== 'number') return `longitude must be a number, got ${shown(lon)}`;
  if (!Number.isFinite(lat)) return `latitude must be a finite number, got ${lat}`;
  if (!Number.isFinite(lon)) return `longitude must be a finite number, got ${lon}`;
  if (Math.abs(lat) > 90) {
    const swapped = Math.abs(lat) <= 180 && Math.abs(lon) <= 90;
    return `latitude ${lat} is outside −90…90${swapped ? '; latitude and longitude swapped?' : ''}`;
  }
  if (Math.abs(lon) > 180) return `longitude ${lon} is outside −180…180`;
  return undefined;
}

/**
 * A checked position.
 *
 * @throws {InputError} of kind `impossible-position` naming the number and the range.
 */
export function position(lat: number, lon: number): Position {
  const fault = positionFault(lat, lon);
  if (fault !== undefined) throw new InputError('impossible-position', fault);
  return { lat, lon };
}

function shown(value: unknown): string {
  if (value === undefined) return 'nothing';
  return typeof value === 'string' ? `the text "${value.slice(0, 40)}"` : JSON.stringify(value);
}

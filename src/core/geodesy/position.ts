import { InputError } from '../check/input-error.js';
import { numberFault } from '../check/number.js';

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
  const fault = numberFault('latitude', lat) ?? numberFault('longitude', lon);
  if (fault !== undefined) return fault;
  const [north, east] = [Math.abs(lat as number), Math.abs(lon as number)];
  if (north > 90)
    return `latitude ${String(lat)} is outside −90…90${north <= 180 && east <= 90 ? '; latitude and longitude swapped?' : ''}`;
  return east > 180 ? `longitude ${String(lon)} is outside −180…180` : undefined;
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

import { InputError } from '../check/input-error.js';
import { positionOf, type Position } from '../geodesy/position.js';
import { fixFrom, type Fix } from './fix.js';
import { readPosition } from './read-position.js';

/**
 * A place that somebody typed, chose or put a pin on, as a fix of origin `manual`: whatever takes a fix takes it, so
 * that a refused permission is no dead end. It has an accuracy only when one is given: nobody measured it.
 *
 * @param where a position, or a text as `readPosition` reads it.
 * @param time when it was given, milliseconds since 1970 UTC.
 * @throws {InputError} for a text that is no position, or an impossible one.
 */
export function manualFix(where: (Position & { readonly accuracy?: number }) | string, time: number): Fix {
  const at = typeof where === 'string' ? readPosition(where) : where;
  if (at === undefined) {
    const text = typeof where === 'string' ? where : '';
    throw new InputError(
      'impossible-position',
      `"${text.slice(0, 60)}" is no position`,
      {},
      'Write it like 44.2031, -33.5812.',
    );
  }
  const { accuracy } = at as { accuracy?: number };
  return fixFrom({
    time,
    ...positionOf(at),
    origin: 'manual',
    ...(accuracy !== undefined && { accuracy }),
  });
}

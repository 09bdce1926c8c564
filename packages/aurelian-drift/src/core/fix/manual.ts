import { InputError } from '../check/input-error.js';
import { positionOf, type Position } from '../geodesy/position.js';
import { fixFrom, type Fix } from './fix.js';
import { readPosition } from './read-position.js';

/**
 * A place that the user typed, chose or marked with a pin, as a fix of origin `manual`. Everything that takes a fix
 * takes it, so the app can go on after a refused permission. It has an accuracy only when one is given.
 *
 * @param where a position, or a text for `readPosition`.
 * @param time milliseconds since 1970 UTC.
 * @throws {InputError} for a text that is not a position, or an impossible one.
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

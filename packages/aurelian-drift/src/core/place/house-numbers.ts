import { distance } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import { alongStraight, shareOfStraight } from '../geodesy/straight.js';

/** A house of a street. */
export interface House extends Position {
  readonly index: number;
  readonly houseNumber: string;
}

/** A house number estimated between two known ones. */
export interface EstimatedHouse extends Position {
  readonly houseNumber: string;
}

/** Maximum distance in metres between two houses for an estimate. */
const FAR_APART = 500;

/** Leading number of a house number; NaN when there is none. */
function leadingNumber(houseNumber: string): number {
  return Number(/^\d{1,6}/.exec(houseNumber)?.[0] ?? NaN);
}

/**
 * Estimates the house number at a position between two houses of a street with omitted numbers: in proportion to the
 * distances, odd or even as both are, on the nearer side of the street. `undefined` beside the houses, between
 * neighbours, and where the estimate equals one of the two.
 */
export function numberBetween(at: Position, street: readonly House[]): EstimatedHouse | undefined {
  let best: EstimatedHouse | undefined;
  let min = Infinity;
  for (const odd of [0, 1]) {
    const side = street
      .map((house) => ({ house, number: leadingNumber(house.houseNumber) }))
      .filter(({ number }) => number % 2 === odd)
      .sort((a, b) => a.number - b.number);
    for (let i = 1; i < side.length; i++) {
      const [from, to] = [side[i - 1], side[i]] as [(typeof side)[0], (typeof side)[0]];
      const share = shareOfStraight(at, from.house, to.house);
      if (to.number - from.number <= 2 || !(share > 0 && share < 1)) continue;
      const foot = alongStraight(from.house, to.house, share);
      const far = distance(at, foot);
      const number = from.number + 2 * Math.round((share * (to.number - from.number)) / 2);
      const within = number !== from.number && number !== to.number;
      if (far >= min || !within || distance(from.house, to.house) > FAR_APART) continue;
      [best, min] = [{ ...foot, houseNumber: String(number) }, far];
    }
  }
  return best;
}

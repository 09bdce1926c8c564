import { distance } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import { alongStraight, shareOfStraight } from '../geodesy/straight.js';

/** A house of a street. */
export interface House extends Position {
  readonly index: number;
  readonly houseNumber: string;
}

/** A house number that lies between two that are known. */
export interface EstimatedHouse extends Position {
  readonly houseNumber: string;
}

/** Metres between two houses beyond which what lies between them is guessed rather than estimated. */
const FAR_APART = 500;

/** The number that a house number starts with; NaN when it starts with none. */
function leadingNumber(houseNumber: string): number {
  return Number(/^\d{1,6}/.exec(houseNumber)?.[0] ?? NaN);
}

/**
 * What number one is at who stands between two houses of a street with numbers left out between them: in proportion to
 * the way from one to the other, even or odd as both are, on the side of the street that is nearer. `undefined` beside
 * the houses, between neighbours, and where the proportion gives the number of one of the two.
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

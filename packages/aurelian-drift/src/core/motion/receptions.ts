import type { Random } from './random.js';
import { FreshReceptionModel, RECEPTIONS, type FreshReception, type ReceptionModel } from './reception.js';
import { SMOOTHED_RECEPTIONS, SmoothedReception, type SmoothedFigures } from './smoothed-reception.js';

/** A reception of a receiver that smooths its positions: a name in `SMOOTHED_RECEPTIONS`. */
export type SmoothedReceptionName = keyof typeof SMOOTHED_RECEPTIONS;
/** Conditions of reception of a pretend device: a name in `RECEPTIONS` or `SMOOTHED_RECEPTIONS`. */
export type Reception = FreshReception | SmoothedReceptionName;
/** Names of all receptions. */
export const RECEPTION_NAMES = [
  ...Object.keys(RECEPTIONS),
  ...Object.keys(SMOOTHED_RECEPTIONS),
] as readonly Reception[];

/** The errors of a reception, with random numbers of their own. */
export function receptionModel(reception: Reception, random: Random): ReceptionModel {
  const smoothed: Partial<Record<Reception, SmoothedFigures>> = SMOOTHED_RECEPTIONS;
  const figures = smoothed[reception];
  return figures === undefined
    ? new FreshReceptionModel(reception as FreshReception, random)
    : new SmoothedReception(figures, random);
}

import { RADIUS_IN_DEVIATIONS } from '../fix/confidence.js';
import type { Random } from './random.js';

/** Figures of a reception. */
export interface ReceptionFigures {
  /** Slow error along each axis: standard deviation in m and time constant in s. */
  readonly wander: number;
  readonly memory: number;
  /** White noise along each axis, standard deviation in m. */
  readonly white: number;
  /** Sudden displacements that the stated accuracy does not cover, per minute. */
  readonly bursts?: number;
  /** Silences of 30 to 240 s, per minute. The first fixes after one are coarse. */
  readonly gaps?: number;
}

/** Receivers whose noise is new at every fix, from no error to a deep valley. */
export const RECEPTIONS = Object.freeze({
  exact: { wander: 0, memory: 60, white: 0 },
  open: { wander: 3, memory: 60, white: 0.7 },
  trees: { wander: 6, memory: 40, white: 2 },
  street: { wander: 10, memory: 30, white: 2, bursts: 2 },
  deep: { wander: 3, memory: 60, white: 0.7, gaps: 0.25 },
}) satisfies Readonly<Record<string, ReceptionFigures>>;

/** A reception with noise that is new at every fix: a name in `RECEPTIONS`. */
export type FreshReception = keyof typeof RECEPTIONS;

/** Seconds between fixes from which events may begin and end unseen: as long as the longest burst. */
const LONG_STEP = 10;

/** Motion of the user in metres. */
interface Displacement {
  readonly east: number;
  readonly north: number;
}

/** Source of the error of each fix. */
export interface ReceptionModel {
  /**
   * The error of the next fix; `undefined` during a silence.
   *
   * @param seconds time of the fix on any scale; it must not decrease. @param moved motion of the user since the fix
   *   before.
   */
  next(seconds: number, moved?: Displacement): ReceptionError | undefined;
}

/** An error of reception: metres east and north of the true position, and the stated 95 % radius. */
export interface ReceptionError {
  readonly east: number;
  readonly north: number;
  readonly up: number;
  readonly accuracy: number;
  /** Standard deviation of the height in m. Default: from the accuracy. */
  readonly upSpread?: number;
}

/** Altitudes are about one and a half times as uncertain as positions, because satellites are above only. */
export const UPRIGHT = 1.5;
/** Factors by which the first fixes after a silence are coarser. */
const AFTER_SILENCE = [12, 6, 3];

/** Errors that wander, with white noise at every fix, displacements and silences. */
export class FreshReceptionModel implements ReceptionModel {
  readonly #figures: ReceptionFigures;
  readonly #random: Random;
  readonly #wander: [number, number, number];
  #burst: { until: number; east: number; north: number } | undefined;
  #silentUntil = -Infinity;
  #coarse = 0;
  #time = NaN;

  constructor(reception: FreshReception, random: Random) {
    this.#figures = RECEPTIONS[reception];
    this.#random = random;
    const { wander } = this.#figures;
    this.#wander = [random.normal() * wander, random.normal() * wander, random.normal() * wander * UPRIGHT];
  }

  next(seconds: number): ReceptionError | undefined {
    const { wander, memory, white } = this.#figures;
    const random = this.#random;
    const step = Number.isNaN(this.#time) ? 0 : seconds - this.#time;
    this.#time = seconds;
    const keep = Math.exp(-step / memory);
    const renew = wander * Math.sqrt(1 - keep * keep);
    this.#wander[0] = this.#wander[0] * keep + renew * random.normal();
    this.#wander[1] = this.#wander[1] * keep + renew * random.normal();
    this.#wander[2] = this.#wander[2] * keep + renew * random.normal() * UPRIGHT;
    // An event within a long step is usually over at its end: such a step is gone through second by second.
    if (step > LONG_STEP)
      for (let past = Math.floor(step); past > 0; past--) this.#startEvents(seconds - past, 1);
    this.#startEvents(seconds, step > LONG_STEP ? step % 1 : step);
    if (seconds < this.#silentUntil) return undefined;
    const coarse = AFTER_SILENCE[AFTER_SILENCE.length - this.#coarse] ?? 1;
    if (this.#coarse > 0) this.#coarse--;
    const spread = coarse * Math.sqrt(wander * wander + white * white);
    const extra = coarse === 1 ? white : spread;
    return {
      east: this.#wander[0] + extra * random.normal() + (this.#burst?.east ?? 0),
      north: this.#wander[1] + extra * random.normal() + (this.#burst?.north ?? 0),
      up: this.#wander[2] + extra * UPRIGHT * random.normal(),
      accuracy: RADIUS_IN_DEVIATIONS * spread,
    };
  }

  #startEvents(seconds: number, step: number): void {
    const { bursts = 0, gaps = 0 } = this.#figures;
    const random = this.#random;
    if (this.#burst !== undefined && seconds >= this.#burst.until) this.#burst = undefined;
    if (this.#burst === undefined && random.uniform() < (bursts * step) / 60) {
      const metres = 40 + 80 * random.uniform();
      const angle = 2 * Math.PI * random.uniform();
      const until = seconds + 2 + 8 * random.uniform();
      this.#burst = { until, east: metres * Math.sin(angle), north: metres * Math.cos(angle) };
    }
    if (seconds >= this.#silentUntil && random.uniform() < (gaps * step) / 60) {
      this.#silentUntil = seconds + 30 + 210 * random.uniform();
      this.#coarse = AFTER_SILENCE.length;
    }
  }
}

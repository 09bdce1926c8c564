import { RADIUS_IN_DEVIATIONS } from '../fix/confidence.js';
import type { IndexedLine, LinePlace } from '../geodesy/indexed-line.js';
import type { Position } from '../geodesy/position.js';
import { RADIANS } from '../geodesy/wgs84.js';

/** A fix, as the matcher takes it. */
export interface Sight extends Position {
  /** 95 % radius, metres. */
  readonly accuracy: number;
  /** Metres moved since the fix before; `undefined` at the beginning and after a gap. */
  readonly moved: number | undefined;
  /** Direction of motion, degrees; absent at rest. */
  readonly course?: number | undefined;
}

/** Where the user may be: at a place of the line, or off it since they left it there. */
export interface Guess {
  /** Metres along the line. */
  readonly along: number;
  /** 1 along the line, −1 against it. */
  readonly direction: 1 | -1;
  readonly off: boolean;
  /** Metres moved since the line was left. */
  readonly strayed: number;
  /** Logarithm of the likelihood, relative to the best guess: 0 or less. */
  readonly weight: number;
}

/** The place of the user on the line. */
export interface LineMatch {
  readonly along: number;
  readonly direction: 1 | -1;
  /** Probability, 0…1, that the user is on the line, and that they are at this place of it or within the accuracy. */
  readonly on: number;
  readonly certainty: number;
  /** Places of the line near the fix. */
  readonly places: readonly LinePlace[];
}

/** Guesses that are kept, and the weight below which one is dropped. */
const KEPT = 16;
const FAINT = -18;
/** Metres between two places at which the line was left that count as one. */
const SAME_OFF = 25;
/** Least standard deviation of a fix, metres. */
const LEAST = 1.5;
/** Weight of the agreement of course and line. */
const COURSE = 2;
/** Cost of turning round, of leaving the line, of coming back to it, and the greatest cost of a jump along it. */
const TURN = 4;
const LEAVE = 3;
const RETURN = 2;
const JUMP = 12;
/** Metres along the line that a return skips at the cost of 1, at least. */
const SKIP = 200;
/** Costs at the start: of a plan that is walked backwards, and of a later lap where several pass. */
const BACKWARDS = 1.5;
const LATER = 8;
/** Squared deviations from the line at which being off it is as likely. */
const OFF = RADIUS_IN_DEVIATIONS ** 2;

/**
 * Finds the place of a user on a line from fix to fix: a hidden Markov model whose states are the places of the line
 * near each fix, in both directions, and the places at which the line was left (P. Newson, J. Krumm, Hidden Markov map
 * matching through noise and sparseness, 2009). The history tells laps, crossings, and the way out from the way back.
 */
export class LineMatcher {
  readonly #line: IndexedLine;
  readonly #corridor: number;
  #guesses: readonly Guess[] = [];

  /** @param corridor half width in metres within which the user keeps to the line. */
  constructor(line: IndexedLine, corridor: number) {
    this.#line = line;
    this.#corridor = corridor;
  }

  /** The state: plain data. */
  get guesses(): readonly Guess[] {
    return this.#guesses;
  }
  set guesses(guesses: readonly Guess[]) {
    this.#guesses = guesses;
  }

  /** Takes the next fix; `undefined` while no place of the line was ever near. */
  take(sight: Sight): LineMatch | undefined {
    const deviation = Math.hypot(Math.max(LEAST, sight.accuracy / RADIUS_IN_DEVIATIONS), this.#corridor / 2);
    const places = this.#line.near(sight, 3 * deviation);
    const next =
      this.#guesses.length === 0
        ? this.#begin(places, sight, deviation)
        : this.#advance(places, sight, deviation);
    this.#guesses = pruned(next);
    return this.#read(places, deviation);
  }

  #begin(places: readonly LinePlace[], sight: Sight, deviation: number): Guess[] {
    return places.flatMap((place, i) =>
      ([1, -1] as const).map((direction) => ({
        along: place.along,
        direction,
        off: false,
        strayed: 0,
        weight:
          seen(place, direction, sight, deviation) -
          (direction === 1 ? 0 : BACKWARDS) -
          LATER * Math.min(2, i),
      })),
    );
  }

  #advance(places: readonly LinePlace[], sight: Sight, deviation: number): Guess[] {
    const { moved = Infinity } = sight;
    const next: Guess[] = [];
    for (const place of places)
      for (const direction of [1, -1] as const) {
        const likely = seen(place, direction, sight, deviation);
        let best = -Infinity;
        for (const guess of this.#guesses) {
          const weight = guess.weight - this.#cost(guess, place.along, direction, moved, deviation);
          if (weight > best) best = weight;
        }
        next.push({ along: place.along, direction, off: false, strayed: 0, weight: likely + best });
      }
    const away = -OFF / 2;
    for (const guess of this.#guesses)
      next.push({
        ...guess,
        off: true,
        strayed: guess.strayed + (sight.moved ?? 0),
        weight: guess.weight + away - (guess.off ? 0 : LEAVE),
      });
    return next;
  }

  /** Cost of the way from a guess to a place of the line, in a direction. */
  #cost(guess: Guess, along: number, direction: 1 | -1, moved: number, deviation: number): number {
    const way = along - guess.along;
    const ahead = way * guess.direction;
    const turned = direction !== guess.direction;
    if (guess.off || moved === Infinity) {
      const room = Math.max(SKIP, 2 * guess.strayed);
      return RETURN + Math.min(JUMP / 2, Math.abs(way) / room) + (ahead < -3 * deviation || turned ? 1 : 0);
    }
    const spread = Math.max(deviation, 0.15 * moved);
    // Who turns goes on and comes back: the way may be any length up to what was moved.
    const off = turned
      ? Math.max(0, Math.abs(way) - moved)
      : Math.abs(Math.max(ahead, -deviation) - moved) + Math.max(0, -ahead - deviation);
    return Math.min(JUMP, off / spread) + (turned ? TURN : 0);
  }

  #read(places: readonly LinePlace[], deviation: number): LineMatch | undefined {
    const guesses = this.#guesses;
    let best: Guess | undefined;
    let [all, on] = [0, 0];
    for (const guess of guesses) {
      const share = Math.exp(guess.weight);
      all += share;
      if (guess.off) continue;
      on += share;
      if (best === undefined || guess.weight > best.weight) best = guess;
    }
    best ??= guesses[0];
    if (best === undefined) return undefined;
    const { along, direction } = best;
    const near = guesses.reduce(
      (sum, guess) =>
        !guess.off && Math.abs(guess.along - along) <= 3 * deviation ? sum + Math.exp(guess.weight) : sum,
      0,
    );
    return { along, direction, on: on / all, certainty: near / all, places };
  }
}

/** Logarithm of the likelihood of a fix at a place of the line. */
function seen(place: LinePlace, direction: 1 | -1, { course }: Sight, deviation: number): number {
  // At a corner the user may still go, or go already, in the direction of either side.
  const agreement =
    course === undefined
      ? 1
      : Math.max(
          ...[place.course, place.arrives ?? place.course].map(
            (of) => direction * Math.cos((course - of) * RADIANS),
          ),
        );
  const against = 1 - agreement;
  return -((place.distance / deviation) ** 2) / 2 - COURSE * against;
}

/** The best guesses, relative to the best; of several at one place, off or on, in one direction, the best. */
function pruned(guesses: readonly Guess[]): Guess[] {
  const sorted = guesses.toSorted((a, b) => b.weight - a.weight);
  const best = sorted[0]?.weight ?? 0;
  const kept: Guess[] = [];
  for (const guess of sorted) {
    if (kept.length === KEPT || guess.weight - best < FAINT) break;
    const known = kept.some(
      (other) =>
        other.off === guess.off &&
        other.direction === guess.direction &&
        Math.abs(other.along - guess.along) < (guess.off ? SAME_OFF : 1),
    );
    if (!known) kept.push({ ...guess, weight: guess.weight - best });
  }
  return kept;
}

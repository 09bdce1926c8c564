import { keptText, readKept, type KeptKind } from '../check/kept-text.js';
import {
  PLACE,
  among,
  count,
  finite,
  listOf,
  objectOf,
  optional,
  refuseDamaged,
  text,
  truth,
  within,
} from '../check/shape.js';
import type { FenceWatchState } from '../fence/watch-state.js';
import type { Guess } from './line-matcher.js';
import type { Stretches } from './stretches.js';

/** State of a `PlanWatch`, as text to store, for `restore`. Its content is private and may change with each version. */
export type PlanWatchState = string;

/** Leaving the corridor of a plan or coming back, before it has lasted. */
export interface PlanTurn {
  readonly kind: 'left' | 'back';
  readonly time: number;
  readonly lat: number;
  readonly lon: number;
  readonly along: number;
  readonly certainty: number;
}

/** State of a watch of a plan. */
export interface PlanMemory {
  /** Length of the line in metres: the state is of this plan. */
  readonly length: number;
  readonly guesses: readonly Guess[];
  readonly sure?: number | undefined;
  readonly covered: Stretches;
  readonly repeated: number;
  readonly pace?: number | undefined;
  readonly finished: boolean;
  /** Indices of the stations that were reached or passed by. */
  readonly told: readonly number[];
  readonly turn?: PlanTurn | undefined;
  readonly corridor: FenceWatchState;
}

const KIND: KeptKind = { kind: 'plan-watch', version: 1, what: 'the state of a PlanWatch' };

const notNegative = within(0, Infinity);
const LAYOUT = objectOf({
  length: notNegative,
  guesses: listOf(
    objectOf({
      along: notNegative,
      direction: among(1, -1),
      off: truth,
      strayed: notNegative,
      weight: within(-Infinity, 0),
    }),
  ),
  sure: optional(notNegative),
  covered: listOf(listOf(finite, 2)),
  repeated: notNegative,
  pace: optional(notNegative),
  finished: truth,
  told: listOf(count),
  turn: optional(
    objectOf({ kind: among('left', 'back'), time: finite, along: finite, certainty: finite, ...PLACE }),
  ),
  corridor: text,
});

export function planStateOf(memory: PlanMemory): PlanWatchState {
  const { length, guesses, sure, covered, repeated, pace, finished, told, turn, corridor } = memory;
  return keptText(KIND, {
    length,
    guesses: guesses.map(({ along, direction, off, strayed, weight }) => ({
      along,
      direction,
      off,
      strayed,
      weight,
    })),
    sure,
    covered,
    repeated,
    pace,
    finished,
    told,
    turn,
    corridor,
  });
}

/** @throws {InputError} of kind `bad-value` for a value that is not a state, is damaged, or of a later version. */
export function planMemoryOf(state: unknown): PlanMemory {
  const { value } = readKept(KIND, state);
  refuseDamaged(value, LAYOUT, 'this is not a valid state of a PlanWatch');
  return value as PlanMemory;
}

import { keptText, readKept, type KeptKind } from '../check/kept-text.js';
import {
  PLACE,
  among,
  count,
  finite,
  listOf,
  nullable,
  objectOf,
  optional,
  recordOf,
  refuseDamaged,
  shape,
  text,
  truth,
  within,
} from '../check/shape.js';
import { isEstimate, isPrediction } from '../estimate/motion-filter.js';
import type { PathFilterMemory } from '../estimate/path-filter.js';
import { fixLayout, fixOfLayout, isFixLayout } from '../fix/fix-layout.js';
import { POWERS, type SilencesState } from '../distance/silence.js';
import type { Cut, PostMemory, Seen } from './post.js';

/**
 * State of a `FenceWatch`, as text to store, for `restore`. Its content is private and may change with each version.
 */
export type FenceWatchState = string;

/** State of a watch. */
export interface WatchMemory {
  readonly last?: Seen | undefined;
  /** Whether a gap follows the last fix. */
  readonly broken: boolean;
  /** Intervals between fixes, which tell silences. */
  readonly received: SilencesState;
  /** State of the filtered path. */
  readonly path: PathFilterMemory;
  /** State of each fence that is not certainly outside. */
  readonly fences: Readonly<Record<string, PostMemory & { readonly name: string }>>;
}

const KIND: KeptKind = { kind: 'fence-watch', version: 1, what: 'the state of a FenceWatch' };

export function watchStateOf(memory: WatchMemory): FenceWatchState {
  return keptText(KIND, watchLayout(memory));
}

/** @throws {InputError} of kind `bad-value` with the path of the damage. */
export function watchMemoryOf(state: unknown): WatchMemory {
  return watchOfLayout(readKept(KIND, state).value);
}

/** Layout 1, also a part of a guard's state of a member. */
export function watchLayout({ last, broken, received, path, fences }: WatchMemory): object {
  const { lat, lon, time, estimate, error, manoeuvred, manoeuvre, doubted } = path;
  const [usual, own, velocity] = error;
  return {
    last: last && seenLayout(last),
    broken,
    silences: { counts: received.counts, last: received.last },
    path: {
      lat,
      lon,
      time,
      belief: estimate,
      error: { usual, own, velocity },
      manoeuvred,
      manoeuvre,
      doubted: doubted.map(fixLayout),
    },
    fences: Object.fromEntries(Object.entries(fences).map(([id, post]) => [id, postLayout(post)])),
  };
}

function seenLayout({ lat, lon, time, accuracy }: Seen): object {
  return { lat, lon, time, accuracy };
}

function cutLayout({ lat, lon, time, fraction, inward, course }: Cut): object {
  return { lat, lon, time, fraction, inward, course };
}

function postLayout({
  name,
  side,
  entered,
  since,
  lingered,
  known,
  broken,
  lastIn,
  lastOut,
}: PostMemory & { readonly name: string }): object {
  return {
    name,
    side,
    entered,
    since,
    lingered,
    known,
    broken,
    cutIn: lastIn && cutLayout(lastIn),
    cutOut: lastOut && cutLayout(lastOut),
  };
}

interface PostLayout extends Omit<PostMemory, 'lastIn' | 'lastOut'> {
  readonly name: string;
  readonly cutIn?: Cut;
  readonly cutOut?: Cut;
}

interface Layout {
  readonly last?: Seen;
  readonly broken: boolean;
  readonly silences: { readonly counts: readonly number[]; readonly last?: number };
  readonly path: Omit<PathFilterMemory, 'estimate' | 'error' | 'doubted'> & {
    readonly belief: PathFilterMemory['estimate'];
    readonly error: { readonly usual: number | null; readonly own: number; readonly velocity: number };
    readonly doubted: readonly unknown[];
  };
  readonly fences: Readonly<Record<string, PostLayout>>;
}

const notNegative = within(0, Infinity);
const cut = objectOf({ ...PLACE, time: finite, fraction: within(0, 1), inward: truth, course: finite });
const post = objectOf({
  name: text,
  side: among('inside', 'outside', undefined),
  entered: optional(finite),
  since: optional(finite),
  lingered: optional(truth),
  known: optional(finite),
  broken: optional(truth),
  cutIn: optional(cut),
  cutOut: optional(cut),
});

const LAYOUT = objectOf({
  last: optional(objectOf({ ...PLACE, time: finite, accuracy: optional(notNegative) })),
  broken: truth,
  silences: objectOf({ counts: listOf(count, POWERS), last: optional(finite) }),
  path: objectOf({
    ...PLACE,
    time: nullable(finite),
    belief: shape(isEstimate),
    // The first may be unknown.
    error: objectOf({ usual: nullable(notNegative), own: notNegative, velocity: notNegative }),
    manoeuvred: nullable(finite),
    manoeuvre: shape(isPrediction),
    doubted: listOf(shape(isFixLayout)),
  }),
  fences: recordOf(post),
});

/** @throws {InputError} of kind `bad-value` with the path of the damage. */
export function watchOfLayout(value: unknown): WatchMemory {
  refuseDamaged(value, LAYOUT, 'this is not a valid state of a FenceWatch');
  const { last, broken, silences, path, fences } = value as Layout;
  const { lat, lon, time, belief: estimate, error, manoeuvred, manoeuvre, doubted } = path;
  return {
    last: last && { time: last.time, lat: last.lat, lon: last.lon, accuracy: last.accuracy },
    broken,
    received: { counts: silences.counts, last: silences.last },
    path: {
      lat,
      lon,
      time,
      estimate,
      error: [error.usual, error.own, error.velocity],
      manoeuvred,
      manoeuvre,
      doubted: doubted.map(fixOfLayout),
    },
    fences: Object.fromEntries(
      Object.entries(fences).map(([id, { cutIn, cutOut, ...rest }]) => [
        id,
        { ...rest, ...(cutIn && { lastIn: cutIn }), ...(cutOut && { lastOut: cutOut }) },
      ]),
    ),
  };
}

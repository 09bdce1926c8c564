import type { Fix } from '../core/fix/fix.js';
import type { Formatter } from '../core/fix/formatter.js';
import type { NoFixError } from '../core/fix/no-fix-error.js';
import { compassPoint } from '../core/fix/words.js';
import { bearing, distance } from '../core/geodesy/distance.js';
import type { Position } from '../core/geodesy/position.js';
import type { PlaceSent } from '../page/send-place.js';
import type { Access } from '../receiver/access.js';
import type { ReceiverStatus } from '../receiver/status.js';

/** Everything that parts of a page may show of a receiver, at one moment. */
export interface PageState {
  readonly purpose: string;
  readonly fix: Fix | undefined;
  /** Seconds. */
  readonly age: number | undefined;
  readonly access: Access;
  readonly status: ReceiverStatus;
  readonly following: boolean;
  /** Metres and seconds of the present or last follow. */
  readonly walked: { readonly distance: number; readonly duration?: number } | undefined;
  readonly address: string | undefined;
  /** Names of the fences with the user inside. */
  readonly inside: readonly string[];
  /** What became of a place that was sent since the last fix. */
  readonly sent: PlaceSent | 'failed' | undefined;
  readonly format: Formatter;
}

/** What one word of `data-shows` shows: a text for people, and a value for fields and machines. */
export interface ShownValue {
  readonly text: (state: PageState, to: Position | undefined) => string | undefined;
  readonly plain?: (state: PageState, to: Position | undefined) => string | undefined;
}

const failureOf = ({ status }: PageState): NoFixError | undefined =>
  status.state === 'failed' ? status.error : undefined;

/** A quantity of the fix: formatted, and as a number. */
function quantity(
  value: (fix: Fix) => number | undefined,
  text: (value: number, state: PageState, fix: Fix) => string,
  decimals: number,
): ShownValue {
  const of = ({ fix }: PageState) => (fix === undefined ? undefined : value(fix));
  return {
    text: (state) => {
      const found = of(state);
      return found === undefined || state.fix === undefined ? undefined : text(found, state, state.fix);
    },
    plain: (state) => of(state)?.toFixed(decimals),
  };
}

const towards = (state: PageState, to: Position | undefined): { from: Fix; to: Position } | undefined =>
  state.fix === undefined || to === undefined ? undefined : { from: state.fix, to };

/** The words of `data-shows`. */
export const SHOWN: Readonly<Record<string, ShownValue>> = {
  purpose: { text: ({ purpose }) => purpose },
  latitude: quantity(
    ({ lat }) => lat,
    (_, { format }, fix) => format.angles(fix, fix.accuracy)[0],
    6,
  ),
  longitude: quantity(
    ({ lon }) => lon,
    (_, { format }, fix) => format.angles(fix, fix.accuracy)[1],
    6,
  ),
  position: {
    text: ({ fix, format }) => (fix === undefined ? undefined : format.position(fix, fix.accuracy)),
    plain: ({ fix }) => (fix === undefined ? undefined : `${fix.lat.toFixed(6)},${fix.lon.toFixed(6)}`),
  },
  accuracy: quantity(
    ({ accuracy }) => accuracy,
    (metres, { format }) => format.accuracy(metres),
    1,
  ),
  altitude: quantity(
    ({ altitude }) => altitude,
    (metres, { format }) => format.altitude(metres),
    1,
  ),
  speed: quantity(
    ({ speed }) => speed,
    (speed, { format }) => format.speed(speed),
    2,
  ),
  course: quantity(
    ({ course }) => course,
    (course, { format }) => format.course(course),
    0,
  ),
  time: {
    text: ({ fix, format }) => (fix === undefined ? undefined : format.time(fix.time)),
    plain: ({ fix }) => (fix === undefined ? undefined : new Date(fix.time).toISOString()),
  },
  age: {
    text: ({ age, format }) => (age === undefined ? undefined : format.age(age)),
    plain: ({ age }) => age?.toFixed(0),
  },
  address: { text: ({ address }) => address },
  distance: {
    text: ({ walked, format }) => walked && format.length(walked.distance),
    plain: ({ walked }) => walked?.distance.toFixed(0),
  },
  duration: {
    text: ({ walked, format }) =>
      walked?.duration === undefined ? undefined : format.duration(walked.duration),
    plain: ({ walked }) => walked?.duration?.toFixed(0),
  },
  'distance-to': {
    text: (state, to) => {
      const way = towards(state, to);
      return way && state.format.length(distance(way.from, way.to));
    },
    plain: (state, to) => {
      const way = towards(state, to);
      return way && distance(way.from, way.to).toFixed(0);
    },
  },
  'bearing-to': {
    text: (state, to) => {
      const way = towards(state, to);
      const degrees = way && bearing(way.from, way.to);
      return degrees === undefined || Number.isNaN(degrees) ? undefined : compassPoint(degrees);
    },
    plain: (state, to) => {
      const way = towards(state, to);
      const degrees = way && bearing(way.from, way.to);
      return degrees === undefined || Number.isNaN(degrees) ? undefined : degrees.toFixed(0);
    },
  },
  fences: { text: ({ inside }) => (inside.length === 0 ? undefined : inside.join(', ')) },
  permission: { text: ({ access }) => access.permission },
  state: { text: ({ status }) => status.state },
  /** The smallest radius so far, while the device is searching. */
  nearing: {
    text: ({ status, format }) =>
      status.state === 'waiting' && status.accuracy !== undefined
        ? format.accuracy(status.accuracy)
        : undefined,
    plain: ({ status }) => (status.state === 'waiting' ? status.accuracy?.toFixed(0) : undefined),
  },
  failure: { text: (state) => failureOf(state)?.userText },
  help: { text: (state) => failureOf(state)?.remedy.text },
};

/** The words of `data-when`. */
export const CONDITIONS: Readonly<Record<string, (state: PageState) => boolean>> = {
  unasked: ({ access, fix }) =>
    fix === undefined && !['granted', 'refused', 'barred'].includes(access.permission),
  granted: ({ access }) => access.permission === 'granted',
  refused: ({ access }) => access.permission === 'refused' || access.permission === 'barred',
  asking: ({ status }) => status.state === 'asking',
  waiting: ({ status }) => status.state === 'waiting',
  found: ({ fix }) => fix !== undefined,
  'not-found': ({ fix }) => fix === undefined,
  following: ({ following }) => following,
  'not-following': ({ following }) => !following,
  failed: (state) => failureOf(state) !== undefined,
  remedy: (state) => failureOf(state)?.remedy.act !== undefined,
  inside: ({ inside }) => inside.length > 0,
  shared: ({ sent }) => sent === 'shared',
  copied: ({ sent }) => sent === 'copied',
  'not-sent': ({ sent }) => sent === 'failed',
  outside: ({ inside, fix }) => fix !== undefined && inside.length === 0,
};

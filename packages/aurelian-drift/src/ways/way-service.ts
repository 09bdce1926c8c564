import { distance } from '../core/geodesy/distance.js';
import type { Position } from '../core/geodesy/position.js';
import type { Way, WayRequest } from '../core/network/way.js';
import type { WayFinder } from '../core/network/way-finder.js';

/** A service for ways: a network of the app, or a service over the network. */
export interface WayService {
  /**
   * The ways from one place to another, the best first.
   *
   * @throws {NoWayError} if there is none; a `ServiceError`, the reason of the signal, or an `InputError` for an
   * invalid
   *   question.
   */
  ways(request: WayRequest & { readonly signal?: AbortSignal }): Promise<readonly Way[]>;
}

/** A way as a developer's own service gives it: what is missing is computed. */
export interface PlainWay {
  readonly points: readonly Position[];
  readonly seconds: number;
  /** Default: the length of its points. */
  readonly metres?: number;
  /** Default: a start and an arrival. */
  readonly steps?: Way['steps'];
}

/** A service as its developer writes it. The signal aborts when the time limit is reached. */
export interface WayProvider {
  ways(request: WayRequest, signal: AbortSignal): Promise<readonly (Way | PlainWay)[]>;
}

/** A network as a service: no connection, no delay. */
export function networkWays(finder: WayFinder): WayService {
  return {
    ways: ({ signal, ...request }) =>
      new Promise((resolve) => {
        signal?.throwIfAborted();
        resolve(finder.find(request));
      }),
  };
}

/** A way with everything that its provider left out. */
export function wholeWay(way: Way | PlainWay, { from, to, via = [], by = 'foot' }: WayRequest): Way {
  if ('line' in way) return way;
  const { points, seconds, steps } = way;
  const length = points.reduce(
    (sum, at, i) => sum + (i === 0 ? 0 : distance(points[i - 1] as Position, at)),
    0,
  );
  const { metres = length } = way;
  const [first = from, last = to] = [points[0], points.at(-1)];
  const end = { course: 0, seconds: 0, metres: 0 };
  return {
    by,
    line: { parts: [points] },
    metres,
    seconds,
    walk: [distance(from, first), distance(last, to)],
    via,
    enters: [],
    steps: steps ?? [
      { ...end, turn: 'start', at: first, along: 0, metres, seconds },
      { ...end, turn: 'arrive', at: last, along: metres },
    ],
  };
}

import { anything, checkOptions, numberFrom, abortSignal } from '../core/check/options.js';
import { placeProblem, type Position } from '../core/geodesy/position.js';
import { distance } from '../core/geodesy/distance.js';
import { IndexedLine } from '../core/geodesy/indexed-line.js';
import type { Fix } from '../core/fix/fix.js';
import { NoWayError, type Way, type WayRequest } from '../core/network/way.js';
import type { ServiceError } from '../core/service/service-error.js';
import type { AbortSignalLike } from '../live/abort-signal.js';
import { DISPOSE } from '../live/dispose.js';
import { liveValue, type LiveValue } from '../live/live-value.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import type { Follow } from '../receiver/follow.js';
import { FollowedQuestion } from '../service/followed-question.js';
import type { WayService } from './way-service.js';

/** Options of `WayWatch`. */
export interface WayWatchOptions {
  /** Service that finds the ways. */
  readonly ways: WayService;
  /** Where the way leads. */
  readonly to: Position;
  /** The rest of the question: kind of travel, areas, choices. */
  readonly request?: Omit<WayRequest, 'from' | 'to'>;
  /** Metres from the way, and at least the accuracy of the fix, from which a new one is asked for. Default 40. */
  readonly beyond?: number;
  /** Clock of the pauses. Default: the clock of the platform. */
  readonly clock?: Clock;
  /** Closes it when it aborts. */
  readonly signal?: AbortSignalLike;
}

/** The way from the current position. */
export interface WayReading {
  /** `none` before the first fix; `looking` during a question; `no-way` if nothing leads there. */
  readonly state: 'none' | 'looking' | 'known' | 'no-way' | 'failed';
  /** The latest ways, the best first; kept when a later question fails. */
  readonly ways: readonly Way[];
  /** The fix of the ways. */
  readonly fix?: Fix;
  /** Failure of the newest question. */
  readonly error?: ServiceError;
  /** Why there is no way. */
  readonly noWay?: NoWayError;
}

interface Answer {
  readonly ways: readonly Way[];
  readonly lines: readonly IndexedLine[];
  readonly noWay?: NoWayError;
}

/** The way to a place while fixes come: asked for again only when the user has left it, and the newest answer wins. */
export class WayWatch {
  readonly #reading = liveValue<WayReading>({ state: 'none', ways: [] });
  readonly #question: FollowedQuestion<Answer>;
  #to: Position;

  /** @throws {InputError} for a misspelt or impossible option. */
  constructor(options: WayWatchOptions) {
    checkOptions('WayWatch', options, {
      ways: (value) => (typeof value === 'object' && value !== null ? undefined : 'must be a WayService'),
      to: placeProblem,
      request: anything,
      beyond: numberFrom(1, 1e6, 'metres'),
      clock: anything,
      signal: abortSignal,
    });
    const { ways, to, request, beyond = 40, clock = systemClock, signal } = options;
    this.#to = to;
    this.#question = new FollowedQuestion<Answer>({
      owner: 'WayWatch',
      ask: async ({ lat, lon }, ends) =>
        answerOf(ways.ways({ ...request, from: { lat, lon }, to: this.#to, signal: ends })),
      hasLeft: (fix, asked, answer) => {
        const reach = Math.max(beyond, fix.accuracy ?? 0);
        if (answer === undefined || answer.lines.length === 0) return distance(asked, fix) > reach;
        return answer.lines.every((line) => line.near(fix, reach).length === 0);
      },
      publish: ({ answer, state, moved, ...reading }) =>
        this.#reading.set({
          ...reading,
          state: state === 'known' && answer?.noWay !== undefined ? 'no-way' : state,
          ways: answer?.ways ?? [],
          ...(answer?.noWay !== undefined && { noWay: answer.noWay }),
        }),
      clock,
      signal,
    });
  }

  /** The latest, live. */
  get $reading(): LiveValue<WayReading> {
    return this.#reading;
  }

  /** Leads to another place from now on. */
  setTarget(to: Position): void {
    this.#to = to;
    this.#question.renew();
  }

  /** Takes the fixes of a follow. Returns what ends that. */
  follow(follow: Follow): () => void {
    return this.#question.follow(follow);
  }

  /** Takes a fix; one that is older than the newest, or marked unsound, is passed over. */
  take(fix: Fix): void {
    this.#question.take(fix);
  }

  /** Ends it: what is under way is cancelled. Closing twice is harmless. */
  close(): void {
    this.#question.close();
  }

  /** As `close`, for `using`. */
  [DISPOSE](): void {
    this.close();
  }
}

async function answerOf(asked: Promise<readonly Way[]>): Promise<Answer> {
  try {
    const ways = await asked;
    return { ways, lines: ways.map(({ line }) => new IndexedLine(line.parts.flat())) };
  } catch (cause) {
    if (!(cause instanceof NoWayError)) throw cause;
    return { ways: [], lines: [], noWay: cause };
  }
}

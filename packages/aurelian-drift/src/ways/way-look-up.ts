import { anything, checkOptions, numberFrom, patienceSeconds, seconds } from '../core/check/options.js';
import { distance } from '../core/geodesy/distance.js';
import { positionProblem, type Position } from '../core/geodesy/position.js';
import { rounded } from '../core/geodesy/rounded.js';
import { NoWayError, type Way, type WayRequest } from '../core/network/way.js';
import { checkWayRequest } from '../core/network/way-request.js';
import { ServiceError } from '../core/service/service-error.js';
import type { Texts } from '../core/texts/texts.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import { AnswerCache } from '../service/answer-cache.js';
import { Asking } from '../service/asking.js';
import { wholeWay, type PlainWay, type WayProvider, type WayService } from './way-service.js';

/** Options of `WayLookUp`. */
export interface WayLookUpOptions {
  /** Provider of the ways. */
  readonly provider: WayProvider;
  /** Maximum seconds for one try, to the end of the answer. Default 15. */
  readonly patience?: number;
  /** Number of further tries after a temporary failure. Default 2. */
  readonly retries?: number;
  /** Minimum seconds between two requests. Default 0. */
  readonly every?: number;
  /**
   * Metres that positions are rounded to before they leave the device, 1 to 10 000: the way then begins and ends near
   * the true places, and the walk to it is counted from these. Default: not rounded.
   */
  readonly rounding?: number;
  /** Maximum number of stored answers; 0 for none. Default 20. */
  readonly keep?: number;
  /** Seconds for which an answer is stored. Default: ten minutes. */
  readonly keepFor?: number;
  /** Clock of time-outs and pauses. Default: the clock of the platform. */
  readonly clock?: Clock;
  /** Texts for the user in a failure. Default: English. */
  readonly texts?: Texts | undefined;
}

/** Metres beyond which a way does not lead to the place that was asked for. */
const ELSEWHERE = 20_000;

/** Makes a provider of ways reliable: time limits, retries, cancelling, stored answers, rounded positions, checks. */
export class WayLookUp implements WayService {
  readonly #provider: WayProvider;
  readonly #rounding: number | undefined;
  readonly #cache: AnswerCache<Way>;
  readonly #asking: Asking;

  /** @throws {InputError} for a misspelt or impossible option. */
  constructor(options: WayLookUpOptions) {
    checkOptions('WayLookUp', options, {
      provider: (value) =>
        typeof (value as Partial<WayProvider> | null)?.ways === 'function'
          ? undefined
          : 'must be an object with ways',
      patience: patienceSeconds,
      retries: numberFrom(0, 10, ''),
      every: seconds,
      rounding: numberFrom(1, 10_000, 'metres'),
      keep: numberFrom(0, 10_000, ''),
      keepFor: numberFrom(0, 1e9, 'seconds'),
      clock: anything,
      texts: anything,
    });
    const { provider, rounding, clock = systemClock, patience = 15, retries = 2, every = 0 } = options;
    const { keep = 20, keepFor = 600, texts } = options;
    this.#provider = provider;
    this.#rounding = rounding;
    this.#cache = new AnswerCache(clock, keep, keepFor);
    const isAnswer = (cause: unknown) => cause instanceof NoWayError;
    this.#asking = new Asking({ patience, retries, every, clock, texts: texts?.serviceFailures, isAnswer });
  }

  /** Number of requests to the provider, each try counted. */
  get asked(): number {
    return this.#asking.count;
  }

  /** Deletes all stored answers, because they reveal where the user was. */
  forget(): void {
    this.#cache.clear();
  }

  async ways({
    signal,
    ...request
  }: WayRequest & { readonly signal?: AbortSignal }): Promise<readonly Way[]> {
    checkWayRequest(request);
    signal?.throwIfAborted();
    const reported = { ...request, from: this.#rounded(request.from), to: this.#rounded(request.to) };
    const asked =
      request.via === undefined ? reported : { ...reported, via: request.via.map((at) => this.#rounded(at)) };
    const key = JSON.stringify(asked);
    let ways = this.#cache.get(key);
    if (ways === undefined) {
      const found: unknown = await this.#asking.ask((ends) => this.#provider.ways(asked, ends), signal);
      if (!Array.isArray(found) || found.length === 0)
        throw new ServiceError('unfit', { note: 'it is not a list of ways' });
      ways = (found as readonly (Way | PlainWay)[]).map((each) => {
        const way = wholeWay(each, asked);
        checkWay(way, asked);
        return way;
      });
      this.#cache.set(key, ways);
    }
    return this.#rounding === undefined ? ways : ways.map((way) => seenFrom(way, request));
  }

  #rounded(at: Position): Position {
    if (this.#rounding === undefined) return { lat: at.lat, lon: at.lon };
    const { lat, lon } = rounded(at, this.#rounding);
    return { lat, lon };
  }
}

/** The walk to a way and from it, from the true places. */
function seenFrom(way: Way, { from, to }: WayRequest): Way {
  const points = way.line.parts.flat();
  const [first, last] = [points[0] ?? from, points.at(-1) ?? to];
  return { ...way, walk: [distance(from, first), distance(last, to)] };
}

function checkWay({ line, metres, seconds: time }: Way, { from, to }: WayRequest): void {
  const points = line.parts.flat();
  const problem = points.map(({ lat, lon }) => positionProblem(lat, lon)).find((each) => each !== undefined);
  const [first, last] = [points[0], points.at(-1)];
  const fault =
    first === undefined || last === undefined
      ? 'a way has no points'
      : (problem ??
        (!(metres >= 0 && time >= 0 && metres < 1e9 && time < 1e9)
          ? `${metres} m in ${time} s are not a way`
          : [distance(from, first), distance(to, last)].some((away) => away > ELSEWHERE)
            ? 'the way is not between the places that were asked for'
            : undefined));
  if (fault !== undefined) throw new ServiceError('unfit', { note: fault });
}

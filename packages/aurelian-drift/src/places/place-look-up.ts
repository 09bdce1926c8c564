import type { Texts } from '../core/texts/texts.js';
import { anything, checkOptions, numberFrom, patienceSeconds, seconds } from '../core/check/options.js';
import { positionOf, type Position } from '../core/geodesy/position.js';
import { rounded } from '../core/geodesy/rounded.js';
import { answerOf, seenFrom } from '../core/place/answer.js';
import {
  checkAt,
  checkNamed,
  checkNear,
  type AtOptions,
  type NamedOptions,
  type NearOptions,
} from '../core/place/gazetteer.js';
import { isCoarserOrSame, type Place, type PlaceAnswer, type PlaceLevel } from '../core/place/place.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import { AnswerCache } from '../service/answer-cache.js';
import { Asking } from '../service/asking.js';
import { ServiceError } from '../core/service/service-error.js';
import type { Cancel, PlaceProvider, PlaceService } from './place-service.js';

/** Options of `PlaceLookUp`. */
export interface PlaceLookUpOptions {
  /** Provider of the answers. */
  readonly provider: PlaceProvider;
  /** Maximum seconds for one try, to the end of the answer. Default 8. */
  readonly patience?: number;
  /**
   * Number of further tries after a temporary failure: no network, a time-out, a busy or failing service. Default 2.
   */
  readonly retries?: number;
  /** Minimum seconds between two requests. Default 0. */
  readonly every?: number;
  /**
   * Metres that positions are rounded to before they leave the device, 1 to 1 000 000. Distances of the answers are
   * computed here, from the true position. With a rounding of more than 60 m, the finest requested level is the
   * locality.
   */
  readonly rounding?: number;
  /** Distance in metres within which an answer is used again. Default 10. */
  readonly sameWithin?: number;
  /** Maximum number of stored answers; 0 for none. Default 200. */
  readonly keep?: number;
  /** Seconds for which an answer is stored. Default: a day. */
  readonly keepFor?: number;
  /** Clock of time-outs and pauses. Default: the clock of the platform. */
  readonly clock?: Clock;
  /** Texts for the user in a failure. Default: English. */
  readonly texts?: Texts | undefined;
}

const DEFAULTS = Object.freeze({
  patience: 8,
  retries: 2,
  every: 0,
  sameWithin: 10,
  keep: 200,
  keepFor: 86_400,
});
/** Rounding in metres above which a house or a street would be a guess. */
const FINE = 60;
/** Distance in metres beyond which a house, a spot or a street is not an answer to `at`. */
const ELSEWHERE = 5000;

/**
 * Makes a provider reliable: time limits, retries, cancelling, minimum time between requests, stored answers, positions
 * rounded for privacy, and answers checked against the question.
 */
export class PlaceLookUp implements PlaceService {
  readonly #provider: PlaceProvider;
  readonly #rounding: number | undefined;
  readonly #sameWithin: number;
  readonly #cache: AnswerCache<PlaceAnswer>;
  readonly #asking: Asking;

  /** @throws {InputError} for a misspelt or impossible option. */
  constructor(options: PlaceLookUpOptions) {
    checkOptions('PlaceLookUp', options, {
      provider: (value) =>
        typeof value === 'object' && value !== null ? undefined : 'must be an object with at, near or named',
      patience: patienceSeconds,
      retries: numberFrom(0, 10, ''),
      every: seconds,
      rounding: numberFrom(1, 1e6, 'metres'),
      sameWithin: numberFrom(1, 10_000, 'metres'),
      keep: numberFrom(0, 100_000, ''),
      keepFor: numberFrom(0, 1e9, 'seconds'),
      clock: anything,
      texts: anything,
    });
    const { provider, rounding, clock = systemClock } = options;
    const { patience, retries, every, sameWithin, keep, keepFor } = { ...DEFAULTS, ...options };
    this.#provider = provider;
    this.#rounding = rounding;
    this.#sameWithin = sameWithin;
    this.#cache = new AnswerCache(clock, keep, keepFor);
    this.#asking = new Asking({ patience, retries, every, clock, texts: options.texts?.serviceFailures });
  }

  /** Number of requests to the provider, each try counted. */
  get asked(): number {
    return this.#asking.count;
  }

  /** Deletes all stored answers, because they reveal where the user was. */
  forget(): void {
    this.#cache.clear();
  }

  async at(
    where: Position,
    { signal, ...options }: AtOptions & Cancel = {},
  ): Promise<readonly PlaceAnswer[]> {
    checkAt(options);
    const at = positionOf(where);
    const level = this.#finest(options.level);
    const given = { ...options, ...(level !== undefined && { level }) };
    const { provider, reported, key } = this.#question('at', at, given);
    const answers = await this.#ask(key, signal, options.pattern, (ends) =>
      provider.at?.(reported, given, ends),
    );
    for (const answer of answers) checkLevel(answer, level, reported);
    return answers.map((answer) => seenFrom(at, { relation: 'at', ...answer }));
  }

  async near(
    where: Position,
    { signal, ...options }: NearOptions & Cancel = {},
  ): Promise<readonly PlaceAnswer[]> {
    checkNear(options);
    const at = positionOf(where);
    const { within, max = 10, kinds, by } = options;
    const { provider, reported, key, blur } = this.#question('near', at, options);
    const given = { ...options, ...(within !== undefined && { within: within + blur }) };
    const answers = await this.#ask(key, signal, options.pattern, (ends) =>
      provider.near?.(reported, given, ends),
    );
    const seen = answers.map((answer) => seenFrom(at, answer));
    const reach = within === undefined ? Infinity : within + 2 * blur + this.#sameWithin;
    for (const { distance = 0, kind, text } of seen) {
      if (distance > reach)
        throw new ServiceError('unfit', {
          note: `asked within ${within} m, "${text}" is ${Math.round(distance)} m away`,
        });
      if (kinds?.includes(kind) === false)
        throw new ServiceError('unfit', { note: `asked for ${kinds.join(', ')}, "${text}" is a ${kind}` });
    }
    const inside = seen.filter(({ distance = 0 }) => within === undefined || distance <= within);
    if (by !== 'prominence') inside.sort((a, b) => (a.distance ?? 0) - (b.distance ?? 0));
    return inside.slice(0, max);
  }

  async named(
    text: string,
    { signal, ...options }: NamedOptions & Cancel = {},
  ): Promise<readonly PlaceAnswer[]> {
    checkNamed(text, options);
    const { near, max = 10 } = options;
    const { provider, reported, key } = this.#question(`named ${text}`, near, options);
    const given = { ...options, ...(reported !== undefined && { near: reported }) };
    const answers = await this.#ask(key, signal, options.pattern, (ends) =>
      provider.named?.(text, given, ends),
    );
    return answers.slice(0, max).map((answer) => (near === undefined ? answer : seenFrom(near, answer)));
  }

  /** The position that leaves the device, its possible error, and the key of its answers. */
  #question<At extends Position | undefined>(
    what: string,
    at: At,
    { near, ...options }: object & { near?: unknown },
  ) {
    const coarse = at === undefined || this.#rounding === undefined ? undefined : rounded(at, this.#rounding);
    const reported = (coarse === undefined ? at : { lat: coarse.lat, lon: coarse.lon }) as At;
    const cell = reported === undefined ? undefined : rounded(reported, this.#sameWithin);
    return {
      provider: this.#provider,
      reported,
      blur: coarse?.accuracy ?? 0,
      key: JSON.stringify([what, cell?.lat, cell?.lon, options]),
    };
  }

  async #ask(
    key: string,
    signal: AbortSignal | undefined,
    pattern: string | undefined,
    ask: (ends: AbortSignal) => Promise<readonly (Place | PlaceAnswer)[]> | undefined,
  ): Promise<readonly PlaceAnswer[]> {
    signal?.throwIfAborted();
    const kept = this.#cache.get(key);
    if (kept !== undefined) return kept;
    const found = await this.#asking.ask(ask, signal);
    if (!Array.isArray(found)) throw new ServiceError('unfit', { note: 'it is not a list of places' });
    const answers = (found as readonly (Place | PlaceAnswer)[]).map((place) => {
      positionOf(place);
      return answerOf(place, pattern);
    });
    this.#cache.set(key, answers);
    return answers;
  }

  /** A rounding wider than a street makes a house meaningless. */
  #finest(level: PlaceLevel | undefined): PlaceLevel | undefined {
    if (this.#rounding === undefined || this.#rounding <= FINE) return level;
    return level === undefined || !isCoarserOrSame(level, 'locality') ? 'locality' : level;
  }
}

function checkLevel(answer: PlaceAnswer, level: PlaceLevel | undefined, reported: Position): void {
  const { level: own, text, relation } = answer;
  if (level !== undefined && !isCoarserOrSame(own, level))
    throw new ServiceError('unfit', { note: `asked for a ${level}, "${text}" is a ${own}` });
  const far = seenFrom(reported, answer).distance ?? 0;
  if (relation !== 'off' && !isCoarserOrSame(own, 'locality') && far > ELSEWHERE)
    throw new ServiceError('unfit', {
      note: `"${text}" is ${Math.round(far / 1000)} km from what was asked`,
    });
}

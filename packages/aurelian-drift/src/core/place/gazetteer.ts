import { anything, checkOptions, numberFrom, oneOf } from '../check/options.js';
import { InputError } from '../check/input-error.js';
import { suggestion } from '../check/suggest.js';
import { positionOf, type Position } from '../geodesy/position.js';
import { patternProblem, type AddressPattern } from './address.js';
import { Answers } from './answers.js';
import { languageProblem, languagesOf } from './languages.js';
import { PLACE_LEVELS, type Place, type PlaceAnswer, type PlaceLevel } from './place.js';
import { placesAt } from './place-at.js';
import { PlaceIndex, type KindSet, type Nearby } from './place-index.js';
import { PlaceSearch } from './place-search.js';

/** Options of every question. */
export interface AnswerOptions {
  /**
   * BCP 47 tags, the preferred one first: each name is in the first available language, otherwise plain and listed in
   * `fallback`.
   */
  readonly language?: string | readonly string[];
  /** Country whose address format is used. Default: the address's own country, when its code is known. */
  readonly pattern?: AddressPattern;
}

/** Options of `at`: what stands at a position. */
export interface AtOptions extends AnswerOptions {
  /** Finest level of the answers. Default `house`. */
  readonly level?: PlaceLevel;
}

export const NEAR_ORDERS = ['distance', 'prominence'] as const;
/** Order of places near a position: the nearest first, or the most prominent. */
export type NearOrder = (typeof NEAR_ORDERS)[number];

/** Options of `near`: places around a position. */
export interface NearOptions extends AnswerOptions {
  /** Maximum distance in metres. Default: any. */
  readonly within?: number;
  /** Maximum number of answers, 1 to 1000. Default 10. */
  readonly max?: number;
  /** Wanted kinds. Default: kinds of spots and localities. */
  readonly kinds?: readonly string[];
  /** Order of the answers. Default `distance`; `prominence` needs `within`. */
  readonly by?: NearOrder;
}

/** Options of `named`: places by their names. */
export interface NamedOptions extends AnswerOptions {
  /** Position whose neighbourhood comes first among equal matches. */
  readonly near?: Position;
  /** Maximum number of answers, 1 to 1000. Default 10. */
  readonly max?: number;
}

/** Options of `Gazetteer`. */
export interface GazetteerOptions {
  /** BCP 47 tag of the plain names. */
  readonly language?: string;
}

const MAX = 10;
const ANSWER_RULES = { language: languageProblem, pattern: patternProblem };
const MAX_RULE = numberFrom(1, 1000, '');
const AT_RULES = { ...ANSWER_RULES, level: oneOf(...PLACE_LEVELS) };
export const NEAR_RULES = {
  ...ANSWER_RULES,
  within: numberFrom(0, 2.1e7, 'metres'),
  max: MAX_RULE,
  kinds: (value: unknown) =>
    Array.isArray(value) && value.length > 0 && value.every((each) => typeof each === 'string')
      ? undefined
      : 'must be a list of kinds',
  by: oneOf(...NEAR_ORDERS),
};
const NAMED_RULES = { ...ANSWER_RULES, near: anything, max: MAX_RULE };

/** Checks the options of a question, for every service. @throws {InputError} */
export const checkAt = (options: AtOptions): void => checkOptions('at', options, AT_RULES);
export const checkNear = (options: NearOptions): void => {
  checkOptions('near', options, NEAR_RULES);
  if (options.by === 'prominence' && options.within === undefined)
    throw new InputError('bad-value', 'near: order by prominence needs within, in metres');
};
export const checkNamed = (text: unknown, options: NamedOptions): void => {
  if (typeof text !== 'string' || text.trim() === '')
    throw new InputError('bad-value', 'named: the text to look for is empty');
  if (text.length > 200)
    throw new InputError('bad-value', `named: the text has ${text.length} letters, 200 at most`);
  checkOptions('named', options, NAMED_RULES);
  if (options.near !== undefined) positionOf(options.near);
};

/** An index of places: from positions to names, from names to positions, and places nearby. */
export class Gazetteer {
  readonly #index: PlaceIndex;
  readonly #search: PlaceSearch;
  readonly #kinds: readonly string[];
  /** Spots and localities: the default kinds of `near`. */
  readonly #sights: KindSet;
  readonly #language: string | undefined;

  /** @throws {InputError} for an invalid place, with the path `places.N`, or a misspelt option. */
  constructor(places: Iterable<Place>, options: GazetteerOptions = {}) {
    checkOptions('Gazetteer', options, { language: languageProblem });
    this.#language = options.language;
    this.#index = new PlaceIndex(places);
    this.#sights = this.#index
      .ofLevel('spot')
      .map((spot, kind) => spot | (this.#index.ofLevel('locality')[kind] ?? 0));
    this.#kinds = [...new Set(this.#index.kinds.map(({ name }) => name))].sort();
    this.#search = new PlaceSearch(this.#index);
  }

  /** Number of places, including streets and localities that occur in addresses only. */
  get size(): number {
    return this.#index.table.size;
  }

  /** Kinds that occur. */
  get kinds(): readonly string[] {
    return this.#kinds;
  }

  /**
   * Places at a position: house, spot, street, locality, region, country, as far as each is known, from exact to
   * coarse. Where there is no locality, the nearest one is returned with its distance. Empty for an empty gazetteer
   * only.
   *
   * @throws {InputError} for an impossible position or a misspelt option.
   */
  at(where: Position, options: AtOptions = {}): PlaceAnswer[] {
    checkAt(options);
    return placesAt(this.#index, this.#answers(options), positionOf(where), options.level);
  }

  /**
   * Places around a position, by distance or by prominence.
   *
   * @throws {InputError} for an impossible position, a misspelt option, or a kind that does not occur.
   */
  near(where: Position, options: NearOptions = {}): PlaceAnswer[] {
    checkNear(options);
    const at = positionOf(where);
    const { within = Infinity, max = MAX, kinds, by = 'distance' } = options;
    const unknown = kinds?.find((kind) => !this.kinds.includes(kind));
    if (unknown !== undefined)
      throw new InputError(
        'bad-value',
        `near: there is no kind "${unknown}" here, ${suggestion(unknown, this.kinds)}`,
      );
    const wanted = kinds === undefined ? this.#sights : this.#index.ofKinds(kinds);
    const found =
      by === 'distance'
        ? this.#index.nearest(at, wanted, max, within)
        : this.#index.within(at, wanted, within);
    found.push(...this.#index.shapesWithin(at, wanted, Math.min(within, 2.1e7)));
    found.sort(byDistance);
    if (by === 'prominence') found.sort((a, b) => this.#prominence(b) - this.#prominence(a));
    const answers = this.#answers(options);
    return found.slice(0, max).map((each) => answers.seen(at, each));
  }

  /**
   * Places by their words, in any order, ignoring accents and case; beginnings of words count, and words with one or
   * two wrong letters when nothing else is found. The best match first; among equals near places, then prominent ones.
   *
   * @throws {InputError} for an empty text or a misspelt option.
   */
  named(text: string, options: NamedOptions = {}): PlaceAnswer[] {
    checkNamed(text, options);
    return this.#search.find(this.#answers(options), text, options.near, options.max ?? MAX);
  }

  #prominence({ index }: Nearby): number {
    return this.#index.table.extras(index).prominence ?? 0;
  }

  #answers({ language, pattern }: AnswerOptions): Answers {
    return new Answers(this.#index, {
      languages: languagesOf(language),
      pattern,
      plainLanguage: this.#language,
    });
  }
}

function byDistance(a: Nearby, b: Nearby): number {
  return a.distance - b.distance || a.index - b.index;
}

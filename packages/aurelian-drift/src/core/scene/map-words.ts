import { Formatter } from '../fix/formatter.js';
import type { Fix } from '../fix/fix.js';
import type { UnitSystem } from '../fix/units.js';
import { map } from '../texts/english.js';
import { filled, partOf } from '../texts/part.js';
import type { MapTexts, Texts } from '../texts/texts.js';

/** Options of `MapWords`. */
export interface MapWordsOptions {
  /** Texts for the user. Default: English. */
  readonly texts?: Texts | undefined;
  /** Units of lengths. Default `metric`. */
  readonly units?: UnitSystem | undefined;
  /** Decimals of positions, 0 to 9, or `auto` from the accuracy. Default 5. */
  readonly decimals?: number | 'auto' | undefined;
}

/** What a map writes, in one language, one system of units and one number of decimals. */
export class MapWords {
  /** BCP 47 tag. */
  readonly language: string;
  readonly texts: MapTexts;
  readonly format: Formatter;
  #numbers: Intl.NumberFormat | undefined;

  constructor({ texts, units = 'metric', decimals = 5 }: MapWordsOptions = {}) {
    this.language = texts?.language ?? 'en';
    this.texts = partOf(texts, 'map', map);
    this.format = new Formatter({ locale: this.language, units, decimals });
  }

  /** A number with its decimals, without groups of thousands. */
  number(value: number): string {
    // The platform's tables of numbers take tens of milliseconds to load: the first picture does not wait for them.
    if (/^en\b/.test(this.language)) return String(value);
    this.#numbers ??= new Intl.NumberFormat(this.language, { useGrouping: false });
    return this.#numbers.format(value);
  }

  /** Position and accuracy: `44.20000° N, 33.60000° W ±7 m`. */
  place(fix: Fix): string {
    return `${this.format.position(fix, fix.accuracy)} ${this.format.accuracy(fix.accuracy)}`.trim();
  }

  /** The own place in words. */
  ownPlace(fix: Fix | undefined): string {
    const { ownPlaceAt, ownPlaceUnknown } = this.texts;
    return fix === undefined ? ownPlaceUnknown : filled(ownPlaceAt, { place: this.place(fix) });
  }
}

/** Words in English, metric units, and 5 decimals. */
export const PLAIN_WORDS = new MapWords();

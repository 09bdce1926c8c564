import { distance } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import type { Answers } from './answers.js';
import { wordsOf } from './fold.js';
import { PLACE_LEVELS, type PlaceAnswer, type PlaceMatch } from './place.js';
import type { PlaceIndex } from './place-index.js';
import { WordIndex, type WordEntry, type Farness, type WordHit } from './word-index.js';

/** Distance in metres within which two places with the same address are duplicates. */
const SAME = 1000;
/** Maximum number of results that are ranked completely; of more, the best by words and distance. */
const RANKED = 100;

/** A result before its text is made. */
interface Find {
  readonly index: number;
  /** Words of a search that no house has as its number. */
  readonly lacking: number;
  readonly hit: WordHit;
  readonly far: number;
  readonly prominence: number;
}

/** Search of places by their words. */
export class PlaceSearch {
  readonly #index: PlaceIndex;
  readonly #words: WordIndex;
  /** The place of each entry of the word index. */
  readonly #places: Uint32Array;
  /** Positions of the entries, adjacent in memory: a short text may have very many results to sort. */
  readonly #lats: Float32Array;
  readonly #lons: Float32Array;

  constructor(index: PlaceIndex) {
    this.#index = index;
    const { table } = index;
    const places: number[] = [];
    for (let i = 0; i < table.size; i++) if (table.nameOf[i] !== 0) places.push(i);
    this.#places = Uint32Array.from(places);
    this.#lats = Float32Array.from(places, (place) => table.lats[place] as number);
    this.#lons = Float32Array.from(places, (place) => table.lons[place] as number);
    this.#words = new WordIndex(entriesOf(index, places));
  }

  /** At most `max` places with all the words of a text; those near a position first, where one is given. */
  find(answers: Answers, text: string, near: Position | undefined, max: number): PlaceAnswer[] {
    const asked = wordsOf(text);
    const names = asked.filter((word) => !/^\d/.test(word));
    // Digits are a house number, or a part of a name or a postal code: both are searched. Alone they cannot be a house.
    const numbers = names.length === 0 ? [] : asked.filter((word) => /^\d/.test(word));
    const hits = this.#words.find(
      names.length === 0 ? asked : names,
      Math.max(RANKED, max),
      this.#farness(near),
    );
    const finds = hits.flatMap((hit) => this.#finds(hit, numbers, near));
    const min = Math.min(...finds.map(({ lacking }) => lacking));
    const fit = finds.filter(({ lacking }) => lacking === min);
    const phrase = asked.join(' ');
    const coded = new Set(/\d/.test(phrase) ? fit.filter((find) => this.#isCodedIn(find.index, phrase)) : []);
    const uncoded = (find: Find) => (coded.has(find) ? 0 : 1);
    fit.sort((a, b) => a.hit.slips - b.hit.slips || uncoded(a) - uncoded(b) || compare(a, b, this.#index));
    return this.#worded(answers, fit, near, max);
  }

  /** Approximate rank of entries by distance or prominence, from 0 to 999. */
  #farness(near: Position | undefined): Farness {
    if (near === undefined) {
      const [table, places] = [this.#index.table, this.#places];
      return (entries, count, far) => {
        for (let i = 0; i < count; i++) {
          const { prominence = 0 } = table.extras(places[entries[i] as number] as number);
          far[i] = 500 - Math.min(500, prominence);
        }
      };
    }
    return (entries, count, far) => degreesOff(near, this.#lats, this.#lons, entries, count, far);
  }

  /** The result of a match: the house with the number on it, otherwise itself. */
  #finds(hit: WordHit, numbers: readonly string[], near: Position | undefined): Find[] {
    const { table } = this.#index;
    const place = this.#places[hit.entry] as number;
    if (numbers.length === 0) return [this.#found(place, 0, hit, near)];
    const { level } = table.kind(place);
    const houses =
      level === 'street' || level === 'locality'
        ? this.#index.numberedOn(table.streetOf[place] as number, numbers)
        : [];
    // A house that was found by the only number lacks none.
    if (houses.length > 0 && numbers.length === 1)
      return houses.map((index) => this.#found(index, 0, hit, near));
    const found = houses.length > 0 ? houses : [place];
    return found.map((index) => this.#found(index, this.#lacking(index, numbers), hit, near));
  }

  /** Number of numbers of a search that a place has neither as its own nor in its address. */
  #lacking(index: number, numbers: readonly string[]): number {
    const { table } = this.#index;
    const { names, context } = entryOf(this.#index, index);
    const words = [table.text(table.numberOf[index] as number), ...names, ...context].flatMap(wordsOf);
    return numbers.filter((number) => !words.some((word) => word.startsWith(number))).length;
  }

  /** Whether a search contains the postal code of a place as it is written: `VK 12` is not number 12 in VK 10. */
  #isCodedIn(index: number, phrase: string): boolean {
    const { postalCode } = this.#index.table.addressOf(index);
    return postalCode !== undefined && phrase.includes(wordsOf(postalCode).join(' '));
  }

  #found(index: number, lacking: number, hit: WordHit, near: Position | undefined): Find {
    return {
      index,
      lacking,
      hit,
      far: near === undefined ? 0 : distance(near, this.#index.positionOf(index)),
      prominence: this.#index.table.extras(index).prominence ?? 0,
    };
  }

  #worded(answers: Answers, finds: readonly Find[], near: Position | undefined, max: number): PlaceAnswer[] {
    const reported: PlaceAnswer[] = [];
    for (const { index, hit } of finds) {
      if (reported.length === max) break;
      const point = this.#index.positionOf(index);
      const plain =
        near === undefined
          ? answers.plain(index)
          : answers.seen(near, { index, point, distance: distance(near, point) });
      const answer = { ...plain, match: matchOf(hit) };
      const again = reported.some(
        (each) => each.text === answer.text && each.kind === answer.kind && distance(each, answer) < SAME,
      );
      if (again) continue;
      reported.push(answer);
    }
    return reported;
  }
}

/** Distance in degrees from a position to entries, in a plane: exact enough for a rank. */
function degreesOff(
  { lat, lon }: Position,
  lats: Float32Array,
  lons: Float32Array,
  entries: Int32Array,
  count: number,
  far: Float64Array,
): void {
  const scale = Math.cos((lat * Math.PI) / 180);
  for (let i = 0; i < count; i++) {
    const entry = entries[i] as number;
    const east = Math.abs((lons[entry] as number) - lon);
    const dx = (east > 180 ? 360 - east : east) * scale;
    const dy = (lats[entry] as number) - lat;
    far[i] = Math.sqrt(dx * dx + dy * dy);
  }
}

/** Names before addresses, whole words first, then near and prominent places. */
function compare(a: Find, b: Find, index: PlaceIndex): number {
  const level = ({ index: place }: Find) => -PLACE_LEVELS.indexOf(index.table.kind(place).level);
  return (
    b.hit.inName - a.hit.inName ||
    a.hit.beginnings - b.hit.beginnings ||
    a.far - b.far ||
    b.prominence - a.prominence ||
    level(a) - level(b) ||
    a.index - b.index
  );
}

function matchOf({ slips, beginnings }: WordHit): PlaceMatch {
  return slips > 0 ? 'misspelt' : beginnings > 0 ? 'beginning' : 'whole';
}

function* entriesOf(index: PlaceIndex, places: readonly number[]): Generator<WordEntry> {
  for (const place of places) yield entryOf(index, place);
}

/** Texts of a place: its own names, and its kind and address. */
function entryOf(index: PlaceIndex, place: number): WordEntry {
  const { table } = index;
  const address = table.streetAddress(table.streetOf[place] as number);
  const context = [...Object.values(address), table.kind(place).name];
  if (!index.translated) return { names: [table.name(place)], context };
  const at = index.positionOf(place);
  for (const part of ['street', 'locality', 'region'] as const) {
    const text = address[part];
    const named = text === undefined ? undefined : index.namedNear(part, text, at);
    if (named !== undefined) context.push(...Object.values(table.extras(named).names ?? {}));
  }
  return { names: [table.name(place), ...Object.values(table.extras(place).names ?? {})], context };
}

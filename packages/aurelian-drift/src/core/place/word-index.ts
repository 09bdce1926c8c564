import { wordsOf } from './fold.js';
import { misspelt, type Match } from './misspelling.js';

/** Words from which on there are so many letters that one, or two, may be wrong. */
const ONE_SLIP = 4;
const TWO_SLIPS = 8;
/** Words whose misspellings are kept. */
const KEPT = 64;

/** What is to be found: the texts of its own names, and those that tell where it is. */
export interface WordEntry {
  readonly names: readonly string[];
  readonly context: readonly string[];
}

/** An entry that has every word of a search. */
export interface WordHit {
  readonly entry: number;
  /** Letters that had to be changed. */
  readonly slips: number;
  /** Words found in the entry's own name. */
  readonly inName: number;
  /** Words that are only the beginning of the entry's. */
  readonly beginnings: number;
}

/** Writes how far each of the first entries of a list is, from 0 to 999, in the list's order. */
export type Farness = (entries: Int32Array, count: number, far: Float64Array) => void;

/**
 * Which entries have all the words of a search, in any order, whole or as beginnings; with slips of the pen where
 * nothing is found without. An inverted index: a sorted vocabulary, and by word the entries that have it.
 */
export class WordIndex {
  readonly #words: readonly string[];
  /** Where each word's entries start in the list of them. */
  readonly #starts: Uint32Array;
  /** Twice the entry's number, and 1 more where the word is of its name. */
  readonly #entries: Uint32Array;
  readonly #size: number;
  /** Of the words looked at last: who types on sends most of them again. */
  readonly #misspelt = new Map<string, readonly Match[]>();
  /**
   * By entry: words matched so far in the search that goes on, what they cost, and what the next costs at best, plus 1.
   */
  readonly #matched: Uint8Array;
  readonly #costs: Int32Array;
  readonly #bests: Int32Array;
  /** The entries of the rarest word, and of the word that is looked at. */
  readonly #left: Int32Array;
  readonly #touched: Int32Array;
  /** How far those that are left are, in their order. */
  readonly #far: Float64Array;

  constructor(entries: Iterable<WordEntry>) {
    const numbers = new Map<string, number>();
    const words: string[] = [];
    /** Numbers of the words of a text: most texts are of many entries. */
    const read = new Map<string, readonly number[]>();
    const numbersOf = (text: string) => {
      const known = read.get(text);
      if (known !== undefined) return known;
      const made = wordsOf(text).map((word) => {
        const number = numbers.get(word) ?? words.push(word) - 1;
        numbers.set(word, number);
        return number;
      });
      read.set(text, made);
      return made;
    };
    const pairs: number[] = []; // word, and twice the entry with the name bit, one after the other
    /** By word: the entry that it was noted for last, so that it is noted once. */
    const noted: number[] = [];
    let size = 0;
    for (const { names, context } of entries) {
      for (const [texts, bit] of [[names, 1], [context, 0]] as const) {
        for (const text of texts) {
          for (const word of numbersOf(text)) {
            if (noted[word] === size) continue;
            noted[word] = size;
            pairs.push(word, 2 * size + bit);
          }
        }
      } // prettier-ignore
      size++;
    }
    const order = words.map((_, i) => i).sort((a, b) => compare(words[a] as string, words[b] as string));
    const rank = new Uint32Array(words.length);
    order.forEach((number, i) => (rank[number] = i));
    this.#words = order.map((number) => words[number] as string);
    this.#size = size;
    // Counting sort of the pairs by word.
    this.#starts = new Uint32Array(words.length + 1);
    for (let i = 0; i < pairs.length; i += 2) {
      const at = (rank[pairs[i] as number] as number) + 1;
      this.#starts[at] = (this.#starts[at] as number) + 1;
    }
    for (let i = 0; i < words.length; i++)
      this.#starts[i + 1] = (this.#starts[i + 1] as number) + (this.#starts[i] as number);
    this.#entries = new Uint32Array(pairs.length / 2);
    const next = this.#starts.slice();
    for (let i = 0; i < pairs.length; i += 2) {
      const word = rank[pairs[i] as number] as number;
      const place = next[word] as number;
      this.#entries[place] = pairs[i + 1] as number;
      next[word] = place + 1;
    }
    this.#matched = new Uint8Array(size);
    this.#costs = new Int32Array(size);
    this.#bests = new Int32Array(size);
    this.#left = new Int32Array(size);
    this.#touched = new Int32Array(size);
    this.#far = new Float64Array(size);
  }

  get size(): number {
    return this.#size;
  }

  /**
   * Of the entries that have all of the words (at most 32 count), the `most` best: fewest slips, most words in the
   * name, fewest mere beginnings, and then the least by `far`.
   */
  find(words: readonly string[], max: number, far: Farness): WordHit[] {
    const asked = words.slice(0, 32);
    if (asked.length === 0) return [];
    const exact = asked.map((word) => this.#beginningWith(word));
    const found = this.#join(asked, exact, max, far);
    if (found.length > 0) return found;
    // Slips first in the words that are in no entry as they stand, then in any.
    const loose = asked.map((word, i) =>
      exact[i]?.length === 0 ? this.#nearlyBeginningWith(word) : (exact[i] ?? []),
    );
    const mended = this.#join(asked, loose, max, far);
    if (mended.length > 0) return mended;
    const loosest = asked.map((word) => this.#nearlyBeginningWith(word));
    return this.#join(asked, loosest, max, far);
  }

  /** Ranges of words, with the letters changed. */
  #beginningWith(word: string): Match[] {
    const from = lowerBound(this.#words, word);
    // A single digit begins far too much to say anything: only a word that it is.
    const end = /^\d$/.test(word) ? '\0' : '\uFFFF';
    const to = lowerBound(this.#words, `${word}${end}`);
    return from === to ? [] : [{ from, to, slips: 0 }];
  }

  #nearlyBeginningWith(word: string): readonly Match[] {
    const max = word.length >= TWO_SLIPS ? 2 : word.length >= ONE_SLIP ? 1 : 0;
    if (max === 0 || /\d/.test(word)) return this.#beginningWith(word);
    const known = this.#misspelt.get(word);
    if (known !== undefined) return known;
    const made = misspelt(this.#words, word, max);
    if (this.#misspelt.size === KEPT) this.#misspelt.delete(this.#misspelt.keys().next().value ?? '');
    this.#misspelt.set(word, made);
    return made;
  }

  /** Of the entries in which every word has one of its matches, the best. */
  #join(
    asked: readonly string[],
    matches: readonly (readonly Match[])[],
    max: number,
    far: Farness,
  ): WordHit[] {
    if (matches.some((each) => each.length === 0)) return [];
    const weights = matches.map((each) => this.#weightOf(each));
    // The rarest word first: only its entries can have them all.
    const order = asked.map((_, i) => i).sort((a, b) => (weights[a] as number) - (weights[b] as number));
    const [matched, costs] = [this.#matched, this.#costs];
    let left = 0;
    for (const [step, i] of order.entries()) {
      const list = step === 0 ? this.#left : this.#touched;
      const count = this.#touch(asked[i] as string, matches[i] ?? [], step, list);
      if (step === 0) left = count;
      this.#settle(list, count, step + 1);
    }
    // Those that have all the words move to the front of the list.
    let count = 0;
    for (let i = 0; i < left; i++) {
      const entry = this.#left[i] as number;
      if (matched[entry] === asked.length) this.#left[count++] = entry;
      matched[entry] = 0;
    }
    far(this.#left, count, this.#far);
    return leastOf(this.#left, count, costs, this.#far, max).map((entry) =>
      hitOf(entry, costs[entry] as number, asked.length),
    );
  }

  #weightOf(matches: readonly Match[]): number {
    let sum = 0;
    for (const { from, to } of matches) sum += (this.#starts[to] as number) - (this.#starts[from] as number);
    return sum;
  }

  /** Notes for each entry of a word's matches that had all the words before what its best match costs; lists them. */
  #touch(word: string, matches: readonly Match[], step: number, list: Int32Array): number {
    const [words, starts, entries, matched, bests] = [this.#words, this.#starts, this.#entries, this.#matched, this.#bests]; // prettier-ignore
    let count = 0;
    for (const { from, to, slips } of matches) {
      for (let w = from; w < to; w++) {
        const whole = slips === 0 ? words[w] === word : (words[w] as string).length <= word.length + 1;
        const cost = slips * A_SLIP + (whole ? 0 : A_BEGINNING) + 1;
        const end = starts[w + 1] as number;
        for (let i = starts[w] as number; i < end; i++) {
          const packed = entries[i] as number;
          const entry = packed >>> 1;
          if (matched[entry] !== step) continue;
          const own = (packed & 1) === 1 ? cost : cost + NOT_NAME;
          const best = bests[entry] as number;
          if (best === 0) list[count++] = entry;
          if (best === 0 || own < best) bests[entry] = own;
        }
      }
    }
    return count;
  }

  /** Adds what a word cost to what the words before did. */
  #settle(list: Int32Array, count: number, step: number): void {
    const [matched, bests, costs] = [this.#matched, this.#bests, this.#costs];
    for (let i = 0; i < count; i++) {
      const entry = list[i] as number;
      const cost = (bests[entry] as number) - 1;
      costs[entry] = step === 1 ? cost : (costs[entry] as number) + cost;
      bests[entry] = 0;
      matched[entry] = step;
    }
  }
}

/** Keys of the best so far, ascending; there are never more than are asked for. */
const KEYS = new Float64Array(1001);
const BEST = new Int32Array(1001);

/** The `most` entries of least cost, of equal ones the least far. */
function leastOf(
  entries: Int32Array,
  count: number,
  costs: Int32Array,
  far: Float64Array,
  max: number,
): number[] {
  let size = 0;
  for (let i = 0; i < count; i++) {
    const entry = entries[i] as number;
    const key = 1000 * (costs[entry] as number) + (far[i] as number);
    let place = size;
    if (size === max) {
      if (key >= (KEYS[size - 1] as number)) continue;
      place--;
    } else size++;
    for (; place > 0 && (KEYS[place - 1] as number) > key; place--) {
      KEYS[place] = KEYS[place - 1] as number;
      BEST[place] = BEST[place - 1] as number;
    }
    KEYS[place] = key;
    BEST[place] = entry;
  }
  return Array.from(BEST.subarray(0, size));
}

/** What a match costs, so that 32 words' costs add up without one running into the next. */
const A_BEGINNING = 1;
const NOT_NAME = 64;
const A_SLIP = 64 * 64;

function hitOf(entry: number, cost: number, words: number): WordHit {
  return {
    entry,
    slips: Math.floor(cost / A_SLIP),
    inName: words - (Math.floor(cost / NOT_NAME) % 64),
    beginnings: cost % 64,
  };
}

function compare(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0;
}

function lowerBound(words: readonly string[], word: string): number {
  let low = 0;
  let high = words.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((words[middle] as string) < word) low = middle + 1;
    else high = middle;
  }
  return low;
}

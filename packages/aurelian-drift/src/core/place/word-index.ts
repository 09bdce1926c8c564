import { wordsOf } from './fold.js';
import { misspelt, type Match } from './misspelling.js';

/** Minimum length of a word in which one letter, or two, may be wrong. */
const ONE_SLIP = 4;
const TWO_SLIPS = 8;
/** Number of words whose misspellings are cached. */
const KEPT = 64;

/** An entry: the texts of its own names, and those of its address. */
export interface WordEntry {
  readonly names: readonly string[];
  readonly context: readonly string[];
}

/** An entry with every word of a search. */
export interface WordHit {
  readonly entry: number;
  /** Number of changed letters. */
  readonly slips: number;
  /** Number of words found in the entry's own name. */
  readonly inName: number;
  /** Number of words that are only the beginning of one of the entry's. */
  readonly beginnings: number;
}

/** Writes the rank of the first entries of a list by distance, from 0 to 999, in the order of the list. */
export type Farness = (entries: Int32Array, count: number, far: Float64Array) => void;

/**
 * Finds the entries that have all the words of a search, in any order, whole or as beginnings; with misspellings when
 * nothing else is found. An inverted index: a sorted vocabulary, and the entries of each word.
 */
export class WordIndex {
  readonly #words: readonly string[];
  /** Start of each word's entries in their list. */
  readonly #starts: Uint32Array;
  /** Twice the number of the entry, plus 1 where the word is in its name. */
  readonly #entries: Uint32Array;
  readonly #size: number;
  /** Cache of recent words: while the user types, most words come again. */
  readonly #misspelt = new Map<string, readonly Match[]>();
  /**
   * By entry: number of matched words in the current search, their cost, and the best cost of the next word, plus 1.
   */
  readonly #matched: Uint8Array;
  readonly #costs: Int32Array;
  readonly #bests: Int32Array;
  /** Entries of the rarest word, and of the current word. */
  readonly #left: Int32Array;
  readonly #touched: Int32Array;
  /** Ranks of the remaining entries, in their order. */
  readonly #far: Float64Array;

  constructor(entries: Iterable<WordEntry>) {
    const numbers = new Map<string, number>();
    const words: string[] = [];
    /** Numbers of the words of a text: most texts belong to many entries. */
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
    const pairs: number[] = []; // word, and twice the entry with the name bit, alternating
    /** By word: the last entry that was noted for it, so that each is noted once. */
    const noted: number[] = [];
    let size = 0;
    for (const { names, context } of entries) {
      for (const [texts, bit] of [
        [names, 1],
        [context, 0],
      ] as const) {
        for (const text of texts) {
          for (const word of numbersOf(text)) {
            if (noted[word] === size) continue;
            noted[word] = size;
            pairs.push(word, 2 * size + bit);
          }
        }
      }
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
   * Of the entries that have all of the words (at most 32 count), the `max` best: fewest misspellings, most words in
   * the name, fewest mere beginnings, and then the lowest rank of `far`.
   */
  find(words: readonly string[], max: number, far: Farness): WordHit[] {
    const asked = words.slice(0, 32);
    if (asked.length === 0) return [];
    const exact = asked.map((word) => this.#beginningWith(word));
    const found = this.#join(asked, exact, max, far);
    if (found.length > 0) return found;
    // First misspellings of the words that occur in no entry, then of all.
    const loose = asked.map((word, i) =>
      exact[i]?.length === 0 ? this.#nearlyBeginningWith(word) : (exact[i] ?? []),
    );
    const mended = this.#join(asked, loose, max, far);
    if (mended.length > 0) return mended;
    const loosest = asked.map((word) => this.#nearlyBeginningWith(word));
    return this.#join(asked, loosest, max, far);
  }

  /** Ranges of words, with the number of changed letters. */
  #beginningWith(word: string): Match[] {
    const from = lowerBound(this.#words, word);
    // A single digit begins far too many words: only the same word matches.
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

  /** The best of the entries in which every word has a match. */
  #join(
    asked: readonly string[],
    matches: readonly (readonly Match[])[],
    max: number,
    far: Farness,
  ): WordHit[] {
    if (matches.some((each) => each.length === 0)) return [];
    const weights = matches.map((each) => this.#weightOf(each));
    // The rarest word first: only its entries can have all words.
    const order = asked.map((_, i) => i).sort((a, b) => (weights[a] as number) - (weights[b] as number));
    const [matched, costs] = [this.#matched, this.#costs];
    let left = 0;
    for (const [step, i] of order.entries()) {
      const list = step === 0 ? this.#left : this.#touched;
      const count = this.#touch(asked[i] as string, matches[i] ?? [], step, list);
      if (step === 0) left = count;
      this.#settle(list, count, step + 1);
    }
    // Entries with all words move to the front of the list.
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

  /** For each entry that has all words so far, notes the cost of its best match; lists these entries. */
  #touch(word: string, matches: readonly Match[], step: number, list: Int32Array): number {
    const [words, starts, entries, matched, bests] = [
      this.#words,
      this.#starts,
      this.#entries,
      this.#matched,
      this.#bests,
    ];
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

  /** Adds the cost of a word to those of the words before. */
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

/** Keys of the best results so far, ascending; never more than requested. */
const KEYS = new Float64Array(1001);
const BEST = new Int32Array(1001);

/** The `max` entries with the lowest cost, and among equal ones the lowest rank. */
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

/** Cost of a match, small enough that the sum of 32 words does not overflow into the next criterion. */
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

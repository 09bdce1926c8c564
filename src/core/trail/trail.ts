import {
  DATUMS,
  MARKS,
  ORIGINS,
  fixOf,
  type AltitudeDatum,
  type Fix,
  type Mark,
  type Origin,
  type RawFix,
} from '../fix/fix.js';
import { boundsOf, type Bounds } from '../geodesy/bounds.js';
import { InputError } from '../check/input-error.js';
import { MOST_KEYS, type Extras } from './extras.js';
import { summarise, type Summary } from './summary.js';

/** Fixes a chunk holds: growing costs one allocation in 4096 fixes and never copies what is there. */
const CHUNK_BITS = 12;
const CHUNK_SIZE = 1 << CHUNK_BITS;
const CHUNK_MASK = CHUNK_SIZE - 1;

/** Columns of doubles; NaN in a column means that the number is absent. */
const NUMBERS = [
  'time',
  'lat',
  'lon',
  'accuracy',
  'altitude',
  'altitudeAccuracy',
  'course',
  'speed',
] as const;
type NumberColumn = (typeof NUMBERS)[number];

class Chunk {
  readonly numbers = new Float64Array(CHUNK_SIZE * NUMBERS.length);
  /** Index into ORIGINS in the low five bits, index into DATUMS above. */
  readonly kinds = new Uint8Array(CHUNK_SIZE);
  /** One bit for each of MARKS. */
  readonly marks = new Uint8Array(CHUNK_SIZE);
}

/** Origin and datum of a fix in one byte. */
export function kindsOf(origin: Origin, datum: AltitudeDatum | undefined): number {
  return ORIGINS.indexOf(origin) | (DATUMS.indexOf(datum ?? 'unknown') << 5);
}

/** A run of fixes without a break: from `start` up to, not including, `end`. */
export interface Segment {
  readonly start: number;
  readonly end: number;
}

/** What a trail may be called and carry besides its fixes. */
export interface TrailLabels {
  readonly name?: string;
  readonly description?: string;
  /** How often something was cut out of it before it was exported, because a veil lay over it. */
  readonly veiled?: number;
  /** What others wrote of it as a whole. */
  readonly extras?: Extras;
}

/**
 * Recorded fixes, in segments, in the order they were recorded; 66 bytes a fix.
 *
 * A pause or a gap starts a segment, and nothing between two segments is ever counted.
 */
export class Trail {
  readonly #chunks: Chunk[] = [];
  readonly #starts: number[] = [];
  #length = 0;
  #broken = true;
  readonly name: string | undefined;
  readonly description: string | undefined;
  readonly veiled: number | undefined;
  readonly extras: Extras | undefined;
  /** What others wrote of single fixes, by its key: as many as there are fixes, or fewer. */
  readonly #extras = new Map<string, (string | undefined)[]>();

  constructor(labels: TrailLabels = {}) {
    this.name = labels.name;
    this.description = labels.description;
    this.veiled = labels.veiled;
    this.extras = labels.extras;
  }

  /** A trail of one segment. Every fix is checked; `InputError` names the first that is impossible by its index. */
  static from(fixes: Iterable<RawFix>, labels: TrailLabels = {}): Trail {
    const trail = new Trail(labels);
    let index = 0;
    for (const raw of fixes) {
      try {
        trail.append(fixOf(raw));
      } catch (error) {
        throw error instanceof InputError ? error.at({ path: ['fixes', index] }) : error;
      }
      index++;
    }
    return trail;
  }

  /** Number of fixes. */
  get length(): number {
    return this.#length;
  }

  append(fix: Fix): void {
    const {
      time,
      lat,
      lon,
      accuracy,
      altitude,
      altitudeAccuracy,
      course,
      speed,
      origin,
      altitudeDatum,
      marks,
    } = fix;
    let bits = 0;
    if (marks !== undefined) for (const mark of marks) bits |= 1 << MARKS.indexOf(mark);
    this.appendNumbers(
      time,
      lat,
      lon,
      accuracy ?? NaN,
      altitude ?? NaN,
      altitudeAccuracy ?? NaN,
      course ?? NaN,
      speed ?? NaN,
      kindsOf(origin, altitudeDatum),
      bits,
    );
  }

  /**
   * `append` for readers that have checked the numbers themselves and need no object: NaN is absent, `kinds` as
   * `kindsOf` makes it, one bit a mark.
   *
   * @internal
   */
  appendNumbers(
    time: number,
    lat: number,
    lon: number,
    accuracy: number,
    altitude: number,
    altitudeAccuracy: number,
    course: number,
    speed: number,
    kinds: number,
    marks: number,
  ): void {
    if (this.#broken) {
      this.#starts.push(this.#length);
      this.#broken = false;
    }
    const slot = this.#length & CHUNK_MASK;
    const chunk = this.#grow();
    const { numbers } = chunk;
    // In the order of NUMBERS.
    numbers[slot] = time;
    numbers[CHUNK_SIZE + slot] = lat;
    numbers[2 * CHUNK_SIZE + slot] = lon;
    numbers[3 * CHUNK_SIZE + slot] = accuracy;
    numbers[4 * CHUNK_SIZE + slot] = altitude;
    numbers[5 * CHUNK_SIZE + slot] = altitudeAccuracy;
    numbers[6 * CHUNK_SIZE + slot] = course;
    numbers[7 * CHUNK_SIZE + slot] = speed;
    chunk.kinds[slot] = kinds;
    chunk.marks[slot] = marks;
  }

  /** Makes room for one more fix, and gives the chunk that it is in. */
  #grow(): Chunk {
    if ((this.#length & CHUNK_MASK) === 0) this.#chunks.push(new Chunk());
    return this.#chunks[this.#length++ >> CHUNK_BITS] as Chunk;
  }

  /**
   * Puts a fix in by its time: after those of the same time and before, in the latest segment that began by then, or at the very
   * beginning. Costs as much as there are fixes after it.
   */
  insert(fix: Fix): void {
    const segments = this.segments;
    const s = Math.max(
      0,
      segments.findLastIndex(({ start }) => this.number(start, 'time') <= fix.time),
    );
    const { start, end } = segments[s] ?? { start: 0, end: 0 };
    let index = end;
    while (index > start && this.number(index - 1, 'time') > fix.time) index--;
    const broken = this.#broken;
    this.#broken = segments.length === 0;
    this.append(fix);
    this.#broken = broken;
    for (let i = this.#length - 1; i > index; i--) this.#swapWithPrevious(i);
    for (const texts of this.#extras.values()) if (texts.length > index) texts.splice(index, 0, undefined);
    for (let i = s + 1; i < this.#starts.length; i++) (this.#starts[i] as number)++;
  }

  #swapWithPrevious(index: number): void {
    const [here, there] = [index, index - 1].map((at) => this.#chunks[at >> CHUNK_BITS]) as [Chunk, Chunk];
    const [to, from] = [index & CHUNK_MASK, (index - 1) & CHUNK_MASK];
    const swap = (a: Float64Array | Uint8Array, i: number, b: Float64Array | Uint8Array, j: number) => {
      const value = a[i] as number;
      a[i] = b[j] as number;
      b[j] = value;
    };
    for (let column = 0; column < NUMBERS.length; column++)
      swap(here.numbers, column * CHUNK_SIZE + to, there.numbers, column * CHUNK_SIZE + from);
    swap(here.kinds, to, there.kinds, from);
    swap(here.marks, to, there.marks, from);
  }

  /** Appends a fix of another trail, number by number. */
  appendFrom(other: Trail, index: number): void {
    const chunk = other.#chunks[index >> CHUNK_BITS];
    if (chunk === undefined || index >= other.#length) throw new RangeError(`there is no fix ${index}`);
    const slot = index & CHUNK_MASK;
    const { numbers } = chunk;
    // In the order of NUMBERS.
    this.appendNumbers(
      numbers[slot] as number,
      numbers[CHUNK_SIZE + slot] as number,
      numbers[2 * CHUNK_SIZE + slot] as number,
      numbers[3 * CHUNK_SIZE + slot] as number,
      numbers[4 * CHUNK_SIZE + slot] as number,
      numbers[5 * CHUNK_SIZE + slot] as number,
      numbers[6 * CHUNK_SIZE + slot] as number,
      numbers[7 * CHUNK_SIZE + slot] as number,
      chunk.kinds[slot] as number,
      chunk.marks[slot] as number,
    );
    for (const [key, texts] of other.#extras) {
      const text = texts[index];
      if (text !== undefined) this.setExtra(this.#length - 1, key, text);
    }
  }

  /** Keys of what others wrote beside single fixes. */
  get extraKeys(): readonly string[] {
    return [...this.#extras.keys()];
  }

  /** What others wrote beside a fix, by its key. */
  extra(index: number, key: string): string | undefined {
    return this.#extras.get(key)?.[index];
  }

  /** Everything that others wrote beside a fix; `undefined` when that is nothing. */
  extrasOf(index: number): Extras | undefined {
    if (this.#extras.size === 0) return undefined;
    const found: Record<string, string> = {};
    let any = false;
    for (const [key, texts] of this.#extras) {
      const text = texts[index];
      if (text === undefined) continue;
      found[key] = text;
      any = true;
    }
    return any ? found : undefined;
  }

  /** Returns whether it was kept: there are 64 keys at the most. */
  setExtra(index: number, key: string, text: string): boolean {
    let texts = this.#extras.get(key);
    if (texts === undefined) {
      if (this.#extras.size >= MOST_KEYS) return false;
      this.#extras.set(key, (texts = []));
    }
    while (texts.length < index) texts.push(undefined);
    texts[index] = text;
    return true;
  }

  /** The next fix starts a segment. Twice in a row, or before the first fix, is one break. */
  breakSegment(): void {
    this.#broken = true;
  }

  /** Whether a break stands at the end, waiting for the next fix. */
  get broken(): boolean {
    return this.#broken;
  }

  get segments(): readonly Segment[] {
    return this.#starts.map((start, i) => ({ start, end: this.#starts[i + 1] ?? this.#length }));
  }

  /** One number of one fix; NaN when it is absent or there is no such fix. For loops: makes no object. */
  number(index: number, column: NumberColumn): number {
    const chunk = this.#chunks[index >> CHUNK_BITS];
    if (chunk === undefined || index >= this.#length) return NaN;
    return chunk.numbers[NUMBERS.indexOf(column) * CHUNK_SIZE + (index & CHUNK_MASK)] as number;
  }

  /** Whether the fix at an index has a remark. */
  isMarked(index: number, mark: Mark): boolean {
    const bits =
      index < this.#length ? (this.#chunks[index >> CHUNK_BITS]?.marks[index & CHUNK_MASK] ?? 0) : 0;
    return (bits & (1 << MARKS.indexOf(mark))) !== 0;
  }

  /** A copy of one column from one index to another (exclusive); NaN where a number is absent. */
  column(column: NumberColumn, start = 0, end = this.#length): Float64Array {
    const from = Math.max(0, Math.min(start, this.#length));
    const to = Math.max(from, Math.min(end, this.#length));
    const copy = new Float64Array(to - from);
    const offset = NUMBERS.indexOf(column) * CHUNK_SIZE;
    for (let i = from; i < to;) {
      const slot = i & CHUNK_MASK;
      const count = Math.min(CHUNK_SIZE - slot, to - i);
      const { numbers } = this.#chunks[i >> CHUNK_BITS] as Chunk;
      copy.set(numbers.subarray(offset + slot, offset + slot + count), i - from);
      i += count;
    }
    return copy;
  }

  /** The fix at an index from 0, or from the end for negative ones; `undefined` outside. */
  at(index: number): Fix | undefined {
    const real = index < 0 ? this.#length + index : index;
    const chunk = this.#chunks[real >> CHUNK_BITS];
    if (chunk === undefined || !Number.isInteger(real) || real >= this.#length) return undefined;
    const slot = real & CHUNK_MASK;
    const fix: Record<string, unknown> = {};
    for (let column = 0; column < NUMBERS.length; column++) {
      const value = chunk.numbers[column * CHUNK_SIZE + slot] as number;
      if (!Number.isNaN(value)) fix[NUMBERS[column] as NumberColumn] = value;
    }
    const kinds = chunk.kinds[slot] as number;
    fix['origin'] = ORIGINS[kinds & 31];
    if (kinds >> 5 !== 0) fix['altitudeDatum'] = DATUMS[kinds >> 5];
    const bits = chunk.marks[slot] as number;
    if (bits !== 0) fix['marks'] = MARKS.filter((_, i) => (bits & (1 << i)) !== 0);
    return Object.freeze(fix) as unknown as Fix;
  }

  *[Symbol.iterator](): Generator<Fix> {
    for (let i = 0; i < this.#length; i++) yield this.at(i) as Fix;
  }

  /** The fixes of one segment. */
  *fixesOf(segment: Segment): Generator<Fix> {
    for (let i = segment.start; i < segment.end; i++) yield this.at(i) as Fix;
  }

  /** [west, south, east, north], or `undefined` for an empty trail. */
  bounds(): Bounds | undefined {
    return boundsOf(this);
  }

  /** Distance, times, speeds, climb, gaps and bounds: see `Summary`. */
  summary(): Summary {
    return { ...summarise(this), ...(this.veiled !== undefined && { veiled: this.veiled }) };
  }
}

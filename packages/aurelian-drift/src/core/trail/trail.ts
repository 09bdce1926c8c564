import {
  DATUMS,
  MARKS,
  ORIGINS,
  fixFrom,
  type AltitudeDatum,
  type Fix,
  type Mark,
  type Origin,
  type RawFix,
} from '../fix/fix.js';
import { boundsOf, type Bounds } from '../geodesy/bounds.js';
import { InputError } from '../check/input-error.js';
import { MAX_KEYS, type Extras } from './extras.js';
import { summarise, type Summary } from './summary.js';

/** Fixes per chunk: growing costs one allocation in 4096 fixes and copies nothing. */
const CHUNK_BITS = 12;
const CHUNK_SIZE = 1 << CHUNK_BITS;
const CHUNK_MASK = CHUNK_SIZE - 1;
/** Initial size of the first chunk; it is doubled until it is a whole one, so that a short trail is small. */
const SMALLEST = 4;

/** Columns of doubles; NaN for an absent number. */
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
/** Numeric columns of a trail, named as the fields of a fix. */
export type NumberColumn = (typeof NUMBERS)[number];

class Chunk {
  /** Capacity in fixes: a power of two. */
  readonly size: number;
  /** The columns one after the other, in the order of NUMBERS, each of `size` numbers. */
  readonly numbers: Float64Array;
  /** Index into ORIGINS in the low five bits, index into DATUMS above. */
  readonly kinds: Uint8Array;
  /** One bit for each of MARKS. */
  readonly marks: Uint16Array;

  constructor(size: number) {
    this.size = size;
    this.numbers = new Float64Array(size * NUMBERS.length);
    this.kinds = new Uint8Array(size);
    this.marks = new Uint16Array(size);
  }

  /** A chunk of twice the size with the same content. */
  doubled(): Chunk {
    const { size } = this;
    const chunk = new Chunk(2 * size);
    for (let column = 0; column < NUMBERS.length; column++)
      chunk.numbers.set(this.numbers.subarray(column * size, (column + 1) * size), 2 * column * size);
    chunk.kinds.set(this.kinds);
    chunk.marks.set(this.marks);
    return chunk;
  }
}

/** Origin and datum of a fix in one byte. */
export function kindsOf(origin: Origin, datum: AltitudeDatum | undefined): number {
  return ORIGINS.indexOf(origin) | (DATUMS.indexOf(datum ?? 'unknown') << 5);
}

/** A range of fixes without a break: from `start` to `end` (excluded). */
export interface Segment {
  readonly start: number;
  readonly end: number;
}

/** Labels and additional data of a trail. */
export interface TrailLabels {
  readonly name?: string;
  readonly description?: string;
  /** Number of parts that a veil cut out before the trail was exported. */
  readonly veiled?: number;
  /** Additional data of other writers about the whole trail. */
  readonly extras?: Extras;
}

/**
 * `Trail.append` for readers that have checked the numbers and need no object: NaN is absent, `kinds` is made by
 * `kindsOf`, and `marks` has one bit per mark.
 */
export let appendNumbers: (
  trail: Trail,
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
) => void;

/**
 * Recorded fixes, in segments, in the order of recording; 66 bytes per fix, and some hundred bytes per trail.
 *
 * A pause or a gap starts a segment; nothing between two segments is counted.
 */
export class Trail {
  static {
    // One by one: spreading takes several times as long, and every fix of a file comes through here.
    appendNumbers = (
      trail,
      time,
      lat,
      lon,
      accuracy,
      altitude,
      altitudeAccuracy,
      course,
      speed,
      kinds,
      marks,
    ) =>
      trail.#appendNumbers(time, lat, lon, accuracy, altitude, altitudeAccuracy, course, speed, kinds, marks);
  }

  readonly #chunks: Chunk[] = [];
  readonly #starts: number[] = [];
  #length = 0;
  #broken = true;
  readonly name: string | undefined;
  readonly description: string | undefined;
  readonly veiled: number | undefined;
  readonly extras: Extras | undefined;
  /** Additional data of single fixes, by key: as many as there are fixes, or fewer. */
  #extras: Map<string, (string | undefined)[]> | undefined;

  constructor(labels: TrailLabels = {}) {
    this.name = labels.name;
    this.description = labels.description;
    this.veiled = labels.veiled;
    this.extras = labels.extras;
  }

  /**
   * Makes a trail of one segment. Every fix is checked; an `InputError` names the first impossible one by its index.
   */
  static from(fixes: Iterable<RawFix>, labels: TrailLabels = {}): Trail {
    const trail = new Trail(labels);
    let index = 0;
    for (const raw of fixes) {
      try {
        trail.append(fixFrom(raw));
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
    this.#appendNumbers(
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

  #appendNumbers(
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
    const { numbers, size } = chunk;
    // In the order of NUMBERS.
    numbers[slot] = time;
    numbers[size + slot] = lat;
    numbers[2 * size + slot] = lon;
    numbers[3 * size + slot] = accuracy;
    numbers[4 * size + slot] = altitude;
    numbers[5 * size + slot] = altitudeAccuracy;
    numbers[6 * size + slot] = course;
    numbers[7 * size + slot] = speed;
    chunk.kinds[slot] = kinds;
    chunk.marks[slot] = marks;
  }

  /** Makes room for one more fix, and returns its chunk. */
  #grow(): Chunk {
    const at = this.#length++;
    const last = at >> CHUNK_BITS;
    let chunk = this.#chunks[last];
    if (chunk === undefined) this.#chunks.push((chunk = new Chunk(last === 0 ? SMALLEST : CHUNK_SIZE)));
    else if ((at & CHUNK_MASK) === chunk.size) chunk = this.#chunks[last] = chunk.doubled();
    return chunk;
  }

  /**
   * Inserts a fix by its time, after those of the same time or earlier, in the latest segment that began by then, or at
   * the start. The cost grows with the number of fixes after it. Returns the index of the fix.
   */
  insert(fix: Fix): number {
    const segments = this.segments;
    const s = Math.max(
      0,
      segments.findLastIndex(({ start }) => this.number(start, 'time') <= fix.time),
    );
    const { start, end } = segments[s] ?? { start: 0, end: 0 };
    let index = end;
    while (index > start && this.number(index - 1, 'time') > fix.time) index--;
    const empty = segments.length === 0;
    // A break at the end stays there; before the first fix there is none.
    const broken = this.#broken && !empty;
    this.#broken = empty;
    this.append(fix);
    this.#broken = broken;
    for (let i = this.#length - 1; i > index; i--) this.#swapWithPrevious(i);
    for (const texts of this.#extras?.values() ?? [])
      if (texts.length > index) texts.splice(index, 0, undefined);
    for (let i = s + 1; i < this.#starts.length; i++) (this.#starts[i] as number)++;
    return index;
  }

  #swapWithPrevious(index: number): void {
    const [here, there] = [index, index - 1].map((at) => this.#chunks[at >> CHUNK_BITS]) as [Chunk, Chunk];
    const [to, from] = [index & CHUNK_MASK, (index - 1) & CHUNK_MASK];
    type Column = Float64Array | Uint8Array | Uint16Array;
    const swap = (a: Column, i: number, b: Column, j: number) => {
      const value = a[i] as number;
      a[i] = b[j] as number;
      b[j] = value;
    };
    for (let column = 0; column < NUMBERS.length; column++)
      swap(here.numbers, column * here.size + to, there.numbers, column * there.size + from);
    swap(here.kinds, to, there.kinds, from);
    swap(here.marks, to, there.marks, from);
  }

  /** Appends a fix of another trail, number by number. */
  appendFrom(other: Trail, index: number): void {
    const chunk = other.#chunks[index >> CHUNK_BITS];
    if (chunk === undefined || index >= other.#length) throw new RangeError(`there is no fix ${index}`);
    const slot = index & CHUNK_MASK;
    const { numbers, size } = chunk;
    // In the order of NUMBERS.
    this.#appendNumbers(
      numbers[slot] as number,
      numbers[size + slot] as number,
      numbers[2 * size + slot] as number,
      numbers[3 * size + slot] as number,
      numbers[4 * size + slot] as number,
      numbers[5 * size + slot] as number,
      numbers[6 * size + slot] as number,
      numbers[7 * size + slot] as number,
      chunk.kinds[slot] as number,
      chunk.marks[slot] as number,
    );
    if (other.#extras === undefined) return;
    for (const [key, texts] of other.#extras) {
      const text = texts[index];
      if (text !== undefined) this.setExtra(this.#length - 1, key, text);
    }
  }

  /** Keys of the additional data of single fixes. */
  get extraKeys(): readonly string[] {
    return [...(this.#extras?.keys() ?? [])];
  }

  /** Additional data of a fix, by key. */
  extra(index: number, key: string): string | undefined {
    return this.#extras?.get(key)?.[index];
  }

  /** All additional data of a fix; `undefined` when there is none. */
  extrasOf(index: number): Extras | undefined {
    if (this.#extras === undefined) return undefined;
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

  /** Sets additional data of a fix. Returns whether it was stored: a trail has at most 64 keys. */
  setExtra(index: number, key: string, text: string): boolean {
    const extras = (this.#extras ??= new Map<string, (string | undefined)[]>());
    let texts = extras.get(key);
    if (texts === undefined) {
      if (extras.size >= MAX_KEYS) return false;
      extras.set(key, (texts = []));
    }
    while (texts.length < index) texts.push(undefined);
    texts[index] = text;
    return true;
  }

  /** Starts a segment with the next fix. Repeated calls, and calls before the first fix, have no further effect. */
  breakSegment(): void {
    this.#broken = true;
  }

  /** Whether the next fix starts a segment. */
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
    return chunk.numbers[NUMBERS.indexOf(column) * chunk.size + (index & CHUNK_MASK)] as number;
  }

  /** Whether the fix at an index has a mark. */
  isMarked(index: number, mark: Mark): boolean {
    const bits =
      index < this.#length ? (this.#chunks[index >> CHUNK_BITS]?.marks[index & CHUNK_MASK] ?? 0) : 0;
    return (bits & (1 << MARKS.indexOf(mark))) !== 0;
  }

  /** A copy of one column from one index to another (excluded); NaN for an absent number. */
  column(column: NumberColumn, start = 0, end = this.#length): Float64Array {
    const from = Math.max(0, Math.min(start, this.#length));
    const to = Math.max(from, Math.min(end, this.#length));
    const copy = new Float64Array(to - from);
    const rank = NUMBERS.indexOf(column);
    for (let i = from; i < to;) {
      const slot = i & CHUNK_MASK;
      const count = Math.min(CHUNK_SIZE - slot, to - i);
      const { numbers, size } = this.#chunks[i >> CHUNK_BITS] as Chunk;
      const offset = rank * size;
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
      const value = chunk.numbers[column * chunk.size + slot] as number;
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

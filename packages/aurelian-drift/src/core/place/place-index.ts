import { InputError } from '../check/input-error.js';
import { distanceBetween } from '../geodesy/distance.js';
import { deriveAreas, deriveStreets } from './derived-places.js';
import type { Position } from '../geodesy/position.js';
import { RADIANS, wrapLongitude } from '../geodesy/wgs84.js';
import { wordsOf } from './fold.js';
import type { House } from './house-numbers.js';
import { PLACE_LEVELS, type Address, type Place, type PlaceLevel } from './place.js';
import { PlaceTable } from './place-table.js';
import { PointTree } from './point-tree.js';
import { ShapeIndex } from './shape-index.js';

/** A place near a position: its nearest point, and the distance in metres. */
export interface Nearby {
  readonly index: number;
  readonly distance: number;
  readonly point: Position;
}

/** Number of places of a kind that are compared by their radius. */
const BESTS = 8;

/** By the number of a kind: 1 where it is wanted. */
export type KindSet = Uint8Array;

/** The places of a gazetteer, by position and by the parts of their addresses. */
export class PlaceIndex {
  readonly table: PlaceTable;
  /** Whether any place has a name in another language. */
  readonly translated: boolean = false;
  /** Points by the number of their kind: each kind is searched by itself. */
  readonly #trees: (PointTree | undefined)[];
  readonly #levels = new Map<PlaceLevel, KindSet>();
  readonly #shapes: ShapeIndex;
  /** Places by level and name. */
  readonly #named = new Map<PlaceLevel, Map<string, number[]>>();
  /** Places grouped by street, and the start of each street. */
  readonly #streetStarts: Uint32Array;
  readonly #streetPlaces: Uint32Array;
  /** House numbers in the form for comparison, and their texts. */
  readonly #numbers: ReadonlyMap<string, readonly number[]>;
  /** By level: the largest radius of a place, in metres. */
  readonly #widest = new Map<PlaceLevel, number>();

  /** @throws {InputError} for the first invalid place. */
  constructor(places: Iterable<Place>) {
    // A little more than the given places: streets and localities that occur in addresses only.
    const given = Array.isArray(places) ? places.length : 0;
    this.table = new PlaceTable(Math.ceil(1.1 * given) + 64);
    let count = 0;
    for (const place of places) {
      try {
        this.table.add(place);
      } catch (error) {
        throw error instanceof InputError ? error.at({ path: ['places', count] }) : error;
      }
      count++;
    }
    deriveStreets(this.table);
    deriveAreas(this.table);
    this.table.trim();
    const { table } = this;
    for (const { level, radius } of table.kinds) this.#widen(level, radius);
    const shapes: [number, NonNullable<Place['shape']>][] = [];
    const counts = new Uint32Array(table.kinds.length);
    const isShape = new Uint8Array(table.size);
    for (let i = 0; i < table.size; i++) {
      const level = table.kind(i).level;
      if (level !== 'house' && level !== 'spot') this.#note(level, table.name(i), i);
      const { shape, names, radius } = table.extras(i);
      if (names !== undefined) this.translated = true;
      if (radius !== undefined) this.#widen(level, radius);
      if (shape !== undefined) {
        shapes.push([i, shape]);
        isShape[i] = 1;
      } else {
        const kind = table.kindOf[i] as number;
        counts[kind] = (counts[kind] as number) + 1;
      }
    }
    const ids = Array.from(counts, (count) => new Uint32Array(count));
    for (let i = 0; i < table.size; i++) {
      const kind = table.kindOf[i] as number;
      if (isShape[i] === 1) continue;
      const place = (counts[kind] as number) - 1;
      (ids[kind] as Uint32Array)[place] = i;
      counts[kind] = place;
    }
    this.#trees = ids.map((each) =>
      each.length === 0 ? undefined : new PointTree(each, table.lats, table.lons),
    );
    for (const level of PLACE_LEVELS)
      this.#levels.set(
        level,
        Uint8Array.from(table.kinds, (kind) => (kind.level === level ? 1 : 0)),
      );
    this.#shapes = new ShapeIndex(shapes);
    this.#placeSpots();
    [this.#streetStarts, this.#streetPlaces] = housesByStreet(table);
    this.#numbers = numbersOf(table);
  }

  /** Kinds that occur, with their levels. */
  get kinds(): readonly { readonly name: string; readonly level: PlaceLevel }[] {
    return this.table.kinds;
  }

  positionOf(index: number): Position {
    return { lat: this.table.lats[index] as number, lon: this.table.lons[index] as number };
  }

  /** Largest radius in metres of a place of a level. */
  reach(level: PlaceLevel): number {
    return this.#widest.get(level) ?? 0;
  }

  /** The kinds of a level. */
  ofLevel(level: PlaceLevel): KindSet {
    return this.#levels.get(level) as KindSet;
  }

  /** The kinds with some names. */
  ofKinds(names: readonly string[]): KindSet {
    const { kinds } = this.table;
    const wanted = new Uint8Array(kinds.length);
    for (let kind = 0; kind < wanted.length; kind++)
      if (names.includes((kinds[kind] as { name: string }).name)) wanted[kind] = 1;
    return wanted;
  }

  /** The nearest points of each wanted kind, `max` of each, in no order. */
  nearest(at: Position, wanted: KindSet, max: number, metres = Infinity): Nearby[] {
    const found: Nearby[] = [];
    for (let kind = 0; kind < wanted.length; kind++) {
      const tree = wanted[kind] === 1 ? this.#trees[kind] : undefined;
      if (tree !== undefined) this.#measure(at, tree.nearest(at.lat, at.lon, max, metres), metres, found);
    }
    return found;
  }

  /** All points of the wanted kinds within a distance, in no order. */
  within(at: Position, wanted: KindSet, metres: number): Nearby[] {
    const found: Nearby[] = [];
    for (let kind = 0; kind < wanted.length; kind++) {
      const tree = wanted[kind] === 1 ? this.#trees[kind] : undefined;
      if (tree !== undefined) this.#measure(at, tree.within(at.lat, at.lon, metres), metres, found);
    }
    return found;
  }

  /**
   * Places with lines or areas of the wanted kinds within a distance; nearest first, and of those that contain the
   * position the smallest first.
   */
  shapesWithin(at: Position, wanted: KindSet, metres: number): Nearby[] {
    if (this.#shapes.size === 0) return [];
    return this.#shapes
      .within(at, metres)
      .filter(({ index }) => wanted[this.table.kindOf[index] as number] === 1);
  }

  /** The place of a level and name that is nearest to a position. */
  namedNear(level: PlaceLevel, name: string, at: Position): number | undefined {
    const all = this.#named.get(level)?.get(name);
    if (all === undefined || all.length === 1) return all?.[0];
    const { lats, lons } = this.table;
    const scale = Math.cos(at.lat * RADIANS);
    let best: number | undefined;
    let min = Infinity;
    for (const index of all) {
      // Approximate, to tell places of the same name apart.
      const east = wrapLongitude((lons[index] as number) - at.lon) * scale;
      const north = (lats[index] as number) - at.lat;
      const square = east * east + north * north;
      if (square < min) [best, min] = [index, square];
    }
    return best;
  }

  /**
   * The place of a level that contains a position: the smallest area, otherwise the one in whose radius it is deepest.
   */
  bestAt(at: Position, level: PlaceLevel): Nearby | undefined {
    const ofLevel = this.ofLevel(level);
    const [area] = this.shapesWithin(at, ofLevel, 0);
    if (area !== undefined) return area;
    const share = (each: Nearby) => each.distance / this.table.radius(each.index);
    return this.nearest(at, ofLevel, BESTS, this.reach(level))
      .filter((each) => each.distance <= this.table.radius(each.index))
      .sort((a, b) => share(a) - share(b))[0];
  }

  /**
   * The place that an address names at a level, unless the position is in the area of another; otherwise the one that
   * contains it.
   */
  partAt(at: Position, level: 'locality' | 'region' | 'country', address: Address): Nearby | undefined {
    const [area] = this.shapesWithin(at, this.ofLevel(level), 0);
    if (area !== undefined) return area;
    const name = address[level];
    const named = name === undefined ? undefined : this.namedNear(level, name, at);
    return named === undefined ? this.bestAt(at, level) : this.measured(at, named);
  }

  /** A place by its representative point. */
  measured(at: Position, index: number): Nearby {
    const point = this.positionOf(index);
    return { index, point, distance: distanceBetween(at.lat, at.lon, point.lat, point.lon) };
  }

  /** Houses of a street with one of some numbers, in the form for comparison: `12a` is 12 A too. */
  numberedOn(street: number, numbers: readonly string[]): number[] {
    const wanted = new Set(numbers.flatMap((number) => this.#numbers.get(number) ?? []));
    const to = this.#streetStarts[street + 1] as number;
    const found: number[] = [];
    for (let i = this.#streetStarts[street] as number; i < to; i++) {
      const place = this.#streetPlaces[i] as number;
      if (wanted.has(this.table.numberOf[place] as number)) found.push(place);
    }
    return found;
  }

  /** Houses of a street with a number. */
  housesOf(street: number): House[] {
    const { table } = this;
    const places = this.#streetPlaces.subarray(this.#streetStarts[street], this.#streetStarts[street + 1]);
    return Array.from(places, (index) => ({
      index,
      houseNumber: table.text(table.numberOf[index] as number),
      ...this.positionOf(index),
    }));
  }

  #measure(at: Position, indexes: readonly number[], metres: number, found: Nearby[]): void {
    for (const index of indexes) {
      const point = this.positionOf(index);
      const far = distanceBetween(at.lat, at.lon, point.lat, point.lon);
      if (far <= metres) found.push({ index, distance: far, point });
    }
  }

  #widen(level: PlaceLevel, radius: number): void {
    this.#widest.set(level, Math.max(this.#widest.get(level) ?? 0, radius));
  }

  #note(level: PlaceLevel, name: string, index: number): void {
    const ofLevel = this.#named.get(level) ?? new Map<string, number[]>();
    this.#named.set(level, ofLevel);
    const list = ofLevel.get(name);
    if (list === undefined) ofLevel.set(name, [index]);
    else list.push(index);
  }

  /** A spot without a locality gets the one that contains it, and the region whose area contains it. */
  #placeSpots(): void {
    const { table } = this;
    for (let i = 0; i < table.size; i++) {
      if (table.kind(i).level !== 'spot') continue;
      const own = table.addressOf(i);
      if (own.locality !== undefined) continue;
      const at = this.positionOf(i);
      const locality = this.partAt(at, 'locality', own);
      const found = locality === undefined ? {} : table.addressOf(locality.index);
      const region = this.partAt(at, 'region', { ...found, ...own });
      const above = region === undefined ? {} : table.addressOf(region.index);
      table.readdress(i, { ...above, ...found, ...own });
    }
  }
}

function numbersOf(table: PlaceTable): Map<string, number[]> {
  const numbers = new Map<string, number[]>();
  const seen = new Uint8Array(table.texts.all.length);
  for (let i = 0; i < table.size; i++) {
    const text = table.numberOf[i] as number;
    if (seen[text] === 1) continue;
    seen[text] = 1;
    const compared = wordsOf(table.text(text)).join('');
    numbers.set(compared, [...(numbers.get(compared) ?? []), text]);
  }
  return numbers;
}

/** Numbered places by street, as a list with the start of each street. */
function housesByStreet(table: PlaceTable): [Uint32Array, Uint32Array] {
  const starts = new Uint32Array(table.streets.size + 1);
  let count = 0;
  for (let i = 0; i < table.size; i++) {
    if (table.numberOf[i] === 0 || table.kind(i).level !== 'house') continue;
    count++;
    const at = (table.streetOf[i] as number) + 1;
    starts[at] = (starts[at] as number) + 1;
  }
  for (let s = 1; s < starts.length; s++) starts[s] = (starts[s] as number) + (starts[s - 1] as number);
  const places = new Uint32Array(count);
  const next = starts.slice();
  for (let i = 0; i < table.size; i++) {
    if (table.numberOf[i] === 0 || table.kind(i).level !== 'house') continue;
    const street = table.streetOf[i] as number;
    places[next[street] as number] = i;
    next[street] = (next[street] as number) + 1;
  }
  return [starts, places];
}

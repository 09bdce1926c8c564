import { InputError } from '../check/input-error.js';
import { positionProblem, type Position } from '../geodesy/position.js';
import {
  ADDRESS_PARTS,
  PLACE_LEVELS,
  levelOfKind,
  radiusOfKind,
  type Address,
  type Place,
  type PlaceLevel,
  type PlaceShape,
} from './place.js';
import { suggestion } from '../check/suggest.js';

/** Fields that only some places have. */
interface Extras {
  readonly id?: string;
  readonly names?: Readonly<Record<string, string>>;
  readonly prominence?: number;
  readonly radius?: number;
  readonly shape?: PlaceShape;
  readonly details?: Readonly<Record<string, unknown>>;
}

const NONE: Extras = Object.freeze({});

/** A stored kind of place: repeated texts are stored once. */
interface Kind {
  readonly name: string;
  readonly level: PlaceLevel;
  readonly radius: number;
}

/** The same during construction. */
export type Writable<Of> = { -readonly [Key in keyof Of]: Of[Key] };

/** All texts, by number; 0 is the empty one. */
class Texts {
  readonly all: string[] = [''];
  readonly #numbers = new Map<string, number>([['', 0]]);

  numberOf(text: string | undefined): number {
    if (text === undefined) return 0;
    const known = this.#numbers.get(text);
    if (known !== undefined) return known;
    const number = this.all.push(text) - 1;
    this.#numbers.set(text, number);
    return number;
  }
}

/** Pairs of numbers below 2^26, each stored once. */
class Pairs {
  readonly firsts: number[] = [];
  readonly seconds: number[] = [];
  readonly #numbers = new Map<number, number>();

  get size(): number {
    return this.firsts.length;
  }

  numberOf(first: number, second: number): number {
    const key = first * 0x4000000 + second;
    const known = this.#numbers.get(key);
    if (known !== undefined) return known;
    const number = this.firsts.push(first) - 1;
    this.seconds.push(second);
    this.#numbers.set(key, number);
    return number;
  }
}

/**
 * Places of a gazetteer in columns, by index. An address is a house number and the number of a street; a street is its
 * name and the number of an area; an area is its locality, region, postal code and country. So a million houses need
 * their coordinates and three numbers each.
 */
export class PlaceTable {
  readonly texts = new Texts();
  readonly kinds: Kind[] = [];
  lats: Float64Array;
  lons: Float64Array;
  /** By place: numbers of its kind, street, house number and name. */
  kindOf: Uint16Array;
  streetOf: Uint32Array;
  numberOf: Uint32Array;
  nameOf: Uint32Array;
  size = 0;
  readonly #kindNumbers = new Map<string, number>();
  #lastKind: { name: string; level: PlaceLevel; number: number } | undefined;
  /** Street name and area, by street. */
  readonly streets = new Pairs();
  /** An area is a pair of pairs: locality and region, postal code and country. */
  readonly areas = new Pairs();
  readonly #near = new Pairs();
  readonly #coded = new Pairs();
  readonly #extras = new Map<number, Extras>();
  /** The address before, because neighbours mostly share it. */
  #last: Address & { readonly number: number | undefined } = { number: undefined };

  /** @param capacity expected number of places. */
  constructor(capacity: number) {
    this.lats = new Float64Array(capacity);
    this.lons = new Float64Array(capacity);
    this.kindOf = new Uint16Array(capacity);
    this.streetOf = new Uint32Array(capacity);
    this.numberOf = new Uint32Array(capacity);
    this.nameOf = new Uint32Array(capacity);
  }

  /** @throws {InputError} for an impossible position, a place without name and address, or an unknown level. */
  add(place: Place): number {
    const problem = isSound(place) ? undefined : placeProblem(place);
    if (problem !== undefined) throw problem;
    const { kind, name } = place;
    const level = place.level ?? levelOfKind(kind);
    const index = this.#next(place.lat, place.lon);
    this.kindOf[index] = this.#kind(kind, level);
    this.numberOf[index] = this.texts.numberOf(place.houseNumber);
    if (level === 'house' || level === 'spot') {
      this.streetOf[index] = this.#street(place);
      this.nameOf[index] = this.texts.numberOf(name);
    } else {
      // The name of a street, a locality, … is that part of its own address.
      const own = place[level] ?? name;
      this.streetOf[index] = this.#street({ ...place, [level]: own });
      this.nameOf[index] = this.texts.numberOf(name ?? own);
    }
    const extras = extrasOf(place);
    if (extras !== undefined) this.#extras.set(index, extras);
    return index;
  }

  /** Adds a street that occurs in addresses only, at a position. */
  addStreet(street: number, { lat, lon }: Position): void {
    const index = this.#next(lat, lon);
    this.kindOf[index] = this.#kind('street', 'street');
    this.streetOf[index] = street;
    this.nameOf[index] = this.streets.firsts[street] as number;
  }

  /** Replaces the address of a place; its house number stays. */
  readdress(index: number, address: Address): void {
    this.streetOf[index] = this.#street(address);
  }

  /** Releases the spare capacity of the columns. */
  trim(): void {
    const { size } = this;
    if (size > 0.8 * this.lats.length) return;
    this.lats = this.lats.slice(0, size);
    this.lons = this.lons.slice(0, size);
    this.kindOf = this.kindOf.slice(0, size);
    this.streetOf = this.streetOf.slice(0, size);
    this.numberOf = this.numberOf.slice(0, size);
    this.nameOf = this.nameOf.slice(0, size);
  }

  kind(index: number): Kind {
    return this.kinds[this.kindOf[index] as number] as Kind;
  }

  name(index: number): string {
    return this.text(this.nameOf[index] as number);
  }

  text(number: number): string {
    return this.texts.all[number] ?? '';
  }

  extras(index: number): Extras {
    return this.#extras.get(index) ?? NONE;
  }

  /** Radius in metres around its point that counts as the place. */
  radius(index: number): number {
    return this.extras(index).radius ?? this.kind(index).radius;
  }

  /** The address of a street, without a house number. */
  streetAddress(street: number): Writable<Address> {
    return this.#putStreet({}, street);
  }

  areaAddress(area: number): Writable<Address> {
    return this.#putArea({}, area);
  }

  /** The area of a place. */
  areaOf(index: number): number {
    return this.streets.seconds[this.streetOf[index] as number] as number;
  }

  addressOf(index: number): Writable<Address> {
    return this.putAddress({}, index);
  }

  /** Adds the parts of a place's address to an object. */
  putAddress<Of extends Writable<Address>>(to: Of, index: number): Of {
    const number = this.numberOf[index] as number;
    if (number !== 0) to.houseNumber = this.text(number);
    return this.#putStreet(to, this.streetOf[index] as number);
  }

  #putStreet<Of extends Writable<Address>>(to: Of, street: number): Of {
    const name = this.streets.firsts[street] as number;
    if (name !== 0) to.street = this.text(name);
    return this.#putArea(to, this.streets.seconds[street] as number);
  }

  #putArea<Of extends Writable<Address>>(to: Of, area: number): Of {
    const near = this.areas.firsts[area] as number;
    const coded = this.areas.seconds[area] as number;
    const locality = this.#near.firsts[near] as number;
    const region = this.#near.seconds[near] as number;
    const postalCode = this.#coded.firsts[coded] as number;
    const country = this.#coded.seconds[coded] as number;
    if (locality !== 0) to.locality = this.text(locality);
    if (region !== 0) to.region = this.text(region);
    if (postalCode !== 0) to.postalCode = this.text(postalCode);
    if (country !== 0) to.country = this.text(country);
    return to;
  }

  #street({ street, locality, region, postalCode, country }: Address): number {
    const last = this.#last;
    const sameArea =
      last.locality === locality &&
      last.region === region &&
      last.postalCode === postalCode &&
      last.country === country;
    if (sameArea && last.street === street && last.number !== undefined) return last.number;
    const { texts } = this;
    const area =
      sameArea && last.number !== undefined
        ? (this.streets.seconds[last.number] as number)
        : this.areas.numberOf(
            this.#near.numberOf(texts.numberOf(locality), texts.numberOf(region)),
            this.#coded.numberOf(texts.numberOf(postalCode), texts.numberOf(country)),
          );
    const number = this.streets.numberOf(texts.numberOf(street), area);
    this.#last = { street, locality, region, postalCode, country, number } as Address & { number: number };
    return number;
  }

  #kind(name: string, level: PlaceLevel): number {
    if (this.#lastKind?.name === name && this.#lastKind.level === level) return this.#lastKind.number;
    const key = `${level} ${name}`;
    const number = this.#kindNumbers.get(key) ?? this.#newKind(key, name, level);
    this.#lastKind = { name, level, number };
    return number;
  }

  #newKind(key: string, name: string, level: PlaceLevel): number {
    if (this.kinds.length === 0xffff)
      throw new InputError('bad-value', 'a gazetteer holds at most 65535 kinds of place');
    const number = this.kinds.push({ name, level, radius: radiusOfKind(name, level) }) - 1;
    this.#kindNumbers.set(key, number);
    return number;
  }

  /** The index of a new place at a position. */
  #next(lat: number, lon: number): number {
    const index = this.size++;
    if (index === this.lats.length) this.#grow();
    this.lats[index] = lat + 0;
    this.lons[index] = lon + 0;
    return index;
  }

  #grow(): void {
    const capacity = Math.ceil(this.lats.length * 1.5);
    this.lats = grown(new Float64Array(capacity), this.lats);
    this.lons = grown(new Float64Array(capacity), this.lons);
    this.kindOf = grown(new Uint16Array(capacity), this.kindOf);
    this.streetOf = grown(new Uint32Array(capacity), this.streetOf);
    this.numberOf = grown(new Uint32Array(capacity), this.numberOf);
    this.nameOf = grown(new Uint32Array(capacity), this.nameOf);
  }
}

function grown<Column extends Float64Array | Uint16Array | Uint32Array>(
  wider: Column,
  column: Column,
): Column {
  wider.set(column);
  return wider;
}

function extrasOf({ id, names, prominence, radius, shape, details }: Place): Extras | undefined {
  if ((id ?? names ?? prominence ?? radius ?? shape ?? details) === undefined) return undefined;
  return {
    ...(id !== undefined && { id }),
    ...(names !== undefined && { names }),
    ...(prominence !== undefined && { prominence }),
    ...(radius !== undefined && { radius }),
    ...(shape !== undefined && { shape }),
    ...(details !== undefined && { details }),
  };
}

/** Fields that must be texts if they are present. */
const TEXTS = ['kind', 'name', ...ADDRESS_PARTS] as const;

/** Problem with a place; `undefined` when there is none. */
function placeProblem(place: Place): InputError | undefined {
  const misplaced = positionProblem(place.lat, place.lon);
  if (misplaced !== undefined) return new InputError('impossible-position', misplaced);
  const wrong = TEXTS.find((name) => !isText(place[name]));
  if (wrong !== undefined)
    return new InputError('bad-value', `${wrong} must be a text, got ${JSON.stringify(place[wrong])}`);
  const { kind, level, radius, prominence } = place;
  if (level !== undefined && !PLACE_LEVELS.includes(level))
    return new InputError(
      'bad-value',
      `level "${level as string}" is not known, ${suggestion(level, PLACE_LEVELS)}`,
    );
  const amount = amountProblem('radius', radius) ?? amountProblem('prominence', prominence);
  if (amount !== undefined) return new InputError('bad-value', amount);
  if (!tells(place))
    return new InputError(
      'bad-value',
      `the ${kind} has neither a name nor an address: nothing to tell of it`,
    );
  return undefined;
}

/** Quick check for valid places: nearly all are valid, and a million are checked. */
function isSound(place: Place): boolean {
  const { lat, lon, level, radius, prominence } = place;
  return (
    typeof lat === 'number' &&
    typeof lon === 'number' &&
    Math.abs(lat) <= 90 &&
    Math.abs(lon) <= 180 &&
    isText(place.kind) &&
    isText(place.name) &&
    isText(place.houseNumber) &&
    isText(place.street) &&
    isText(place.locality) &&
    isText(place.region) &&
    isText(place.postalCode) &&
    isText(place.country) &&
    (level ?? radius ?? prominence) === undefined &&
    tells(place)
  );
}

/** Whether a place has a name or an address. */
function tells({ name, houseNumber, street, locality, region, postalCode, country }: Place): boolean {
  return (
    isWritten(name) ||
    isWritten(street) ||
    isWritten(houseNumber) ||
    isWritten(locality) ||
    isWritten(region) ||
    isWritten(postalCode) ||
    isWritten(country)
  );
}

function isWritten(text: string | undefined): boolean {
  return text !== undefined && text.trim() !== '';
}

function isText(value: unknown): boolean {
  return value === undefined || typeof value === 'string';
}

function amountProblem(what: string, value: unknown): string | undefined {
  if (value === undefined || (typeof value === 'number' && value >= 0 && Number.isFinite(value)))
    return undefined;
  return `${what} must be a number of 0 or more, got ${JSON.stringify(value)}`;
}

import type { Position } from '../geodesy/position.js';

/** The parts of an address, exact to coarse but for the postal code. */
export const ADDRESS_PARTS = [
  'houseNumber', 'street', 'locality', 'region', 'postalCode', 'country',
] as const; // prettier-ignore
/** Part of an address. */
export type AddressPart = (typeof ADDRESS_PARTS)[number];

/** An address by its parts; what is not known is absent. `country` is a name or an ISO 3166-1 code of two letters. */
export type Address = { readonly [Part in AddressPart]?: string };

/** How exactly a place says where something is, exact to coarse. A spot is a named thing: a hut, a well, a hill. */
export const PLACE_LEVELS = ['house', 'spot', 'street', 'locality', 'region', 'country'] as const;
/** How much a place covers, from a house to a country. */
export type PlaceLevel = (typeof PLACE_LEVELS)[number];

/** The ground that a place covers: lines, or outlines with their holes. */
export type PlaceShape =
  | { readonly kind: 'line'; readonly parts: readonly (readonly Position[])[] }
  | { readonly kind: 'area'; readonly parts: readonly (readonly (readonly Position[])[])[] };

/** A named place with its address, as a gazetteer takes it. `lat` and `lon` are the point that stands for it. */
export interface Place extends Position, Address {
  readonly id?: string;
  /** `house`, `street`, `hamlet`, `well`, …: an open set; the common ones have a level of their own. */
  readonly kind: string;
  /** What its kind has, when left out. */
  readonly level?: PlaceLevel;
  readonly name?: string;
  /** The name in other languages, by BCP 47 tag. */
  readonly names?: Readonly<Record<string, string>>;
  /** How well known it is: 0 and up, on a scale of the data's own. */
  readonly prominence?: number;
  /** Metres around the point in which somebody is at the place. */
  readonly radius?: number;
  readonly shape?: PlaceShape;
  /** What else the data tells of it. */
  readonly details?: Readonly<Record<string, unknown>>;
}

/** How a found place lies to the position that was asked of: one is there, or so many metres off it. */
export type PlaceRelation = 'at' | 'off';

/** What matched a search: the words whole, beginnings of them, or words with a slip of the pen in them. */
export type PlaceMatch = 'whole' | 'beginning' | 'misspelt';

/** A place as an answer. */
export interface PlaceAnswer extends Omit<Place, 'shape' | 'radius' | 'names' | 'level'> {
  readonly level: PlaceLevel;
  /** On one line, in the order of the country: `14 Plover Lane, Wick Orrin`; `1.8 km SW of Wick Orrin` when off it. */
  readonly text: string;
  readonly relation?: PlaceRelation;
  /** Metres from the position that was asked of, 0 within an area. Absent when none was. */
  readonly distance?: number;
  /** Degrees from true north, from the position that was asked of to the place. Absent at the place itself. */
  readonly bearing?: number;
  /** Its point nearest to the position that was asked of, where it is a line or an area. */
  readonly nearest?: Position;
  /** The house number lies between two that are known. */
  readonly estimated?: true;
  /** Of the names, where it is known. */
  readonly language?: string;
  /** Which parts are not in the language that was asked for. */
  readonly fallback?: readonly ('name' | AddressPart)[];
  /** Of a search. */
  readonly match?: PlaceMatch;
}

/** Metres around the point, and the level, of common kinds. */
const KINDS: Readonly<Record<string, { readonly level: PlaceLevel; readonly radius: number }>> = {
  house: { level: 'house', radius: 60 },
  street: { level: 'street', radius: 60 },
  lane: { level: 'street', radius: 60 },
  road: { level: 'street', radius: 60 },
  hamlet: { level: 'locality', radius: 400 },
  village: { level: 'locality', radius: 800 },
  quarter: { level: 'locality', radius: 800 },
  town: { level: 'locality', radius: 2000 },
  city: { level: 'locality', radius: 6000 },
  locality: { level: 'locality', radius: 800 },
  island: { level: 'region', radius: 0 },
  county: { level: 'region', radius: 0 },
  region: { level: 'region', radius: 0 },
  province: { level: 'region', radius: 0 },
  state: { level: 'region', radius: 0 },
  country: { level: 'country', radius: 0 },
};
/** Metres in which one is at a spot. */
const SPOT_RADIUS = 60;
/** What a level's radius is when the kind says nothing. */
const LEVEL_RADIUS: Readonly<Record<PlaceLevel, number>> = {
  house: 60,
  spot: SPOT_RADIUS,
  street: 60,
  locality: 800,
  region: 0,
  country: 0,
};

/** The level of a kind that says none itself. */
export function levelOfKind(kind: string): PlaceLevel {
  return Object.hasOwn(KINDS, kind) ? (KINDS[kind]?.level ?? 'spot') : 'spot';
}

/** Metres around its point in which one is at a place of a kind. */
export function radiusOfKind(kind: string, level: PlaceLevel): number {
  const known = Object.hasOwn(KINDS, kind) ? KINDS[kind] : undefined;
  return known?.level === level ? known.radius : LEVEL_RADIUS[level];
}

/** Whether a level is as coarse as another, or coarser. */
export function isCoarserOrSame(level: PlaceLevel, than: PlaceLevel): boolean {
  return PLACE_LEVELS.indexOf(level) >= PLACE_LEVELS.indexOf(than);
}

import type { Position } from '../geodesy/position.js';

/** Parts of an address, from exact to coarse except for the postal code. */
export const ADDRESS_PARTS = [
  'houseNumber',
  'street',
  'locality',
  'region',
  'postalCode',
  'country',
] as const;
/** Part of an address. */
export type AddressPart = (typeof ADDRESS_PARTS)[number];

/** An address by its parts; unknown parts are absent. `country` is a name or an ISO 3166-1 code of two letters. */
export type Address = { readonly [Part in AddressPart]?: string };

/** Levels of places, from exact to coarse. A spot is a named thing: a hut, a well, a hill. */
export const PLACE_LEVELS = ['house', 'spot', 'street', 'locality', 'region', 'country'] as const;
/** How much a place covers, from a house to a country. */
export type PlaceLevel = (typeof PLACE_LEVELS)[number];

/** Shape of a place: lines, or outlines with their holes. */
export type PlaceShape =
  | { readonly kind: 'line'; readonly parts: readonly (readonly Position[])[] }
  | { readonly kind: 'area'; readonly parts: readonly (readonly (readonly Position[])[])[] };

/** A named place with its address, as input of a gazetteer. `lat` and `lon` are its representative point. */
export interface Place extends Position, Address {
  readonly id?: string;
  /** `house`, `street`, `hamlet`, `well`, …: an open set; common kinds have a default level. */
  readonly kind: string;
  /** Default: the level of its kind. */
  readonly level?: PlaceLevel;
  readonly name?: string;
  /** Names in other languages, by BCP 47 tag. */
  readonly names?: Readonly<Record<string, string>>;
  /** Prominence: 0 or more, on a scale of the data. */
  readonly prominence?: number;
  /** Radius in metres around the point that counts as the place. */
  readonly radius?: number;
  readonly shape?: PlaceShape;
  /** Other data of the place. */
  readonly details?: Readonly<Record<string, unknown>>;
}

/** Relation of a position to a place: at it, or off it. */
export type PlaceRelation = 'at' | 'off';

/** How a search matched: whole words, beginnings of words, or misspelt words. */
export type PlaceMatch = 'whole' | 'beginning' | 'misspelt';

/** A place as an answer. */
export interface PlaceAnswer extends Omit<Place, 'shape' | 'radius' | 'names' | 'level'> {
  readonly level: PlaceLevel;
  /** On one line, in the format of the country: `14 Plover Lane, Wick Orrin`; `1.8 km SW of Wick Orrin` when off it. */
  readonly text: string;
  readonly relation?: PlaceRelation;
  /** Metres from the requested position, 0 inside an area. Absent for a search without a position. */
  readonly distance?: number;
  /** Degrees from true north, from the requested position to the place. Absent at the place itself. */
  readonly bearing?: number;
  /** Its point nearest to the requested position, for a line or an area. */
  readonly nearest?: Position;
  /** The house number was estimated between two known ones. */
  readonly estimated?: true;
  /** Language of the names, where it is known. */
  readonly language?: string;
  /** Parts that are not in the requested language. */
  readonly fallback?: readonly ('name' | AddressPart)[];
  /** How the search matched. */
  readonly match?: PlaceMatch;
}

/** Radius in metres, and level, of common kinds. */
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
/** Default radius of a spot in metres. */
const SPOT_RADIUS = 60;
/** Default radius by level. */
const LEVEL_RADIUS: Readonly<Record<PlaceLevel, number>> = {
  house: 60,
  spot: SPOT_RADIUS,
  street: 60,
  locality: 800,
  region: 0,
  country: 0,
};

/** Default level of a kind. */
export function levelOfKind(kind: string): PlaceLevel {
  return Object.hasOwn(KINDS, kind) ? (KINDS[kind]?.level ?? 'spot') : 'spot';
}

/** Radius in metres that counts as a place of a kind. */
export function radiusOfKind(kind: string, level: PlaceLevel): number {
  const known = Object.hasOwn(KINDS, kind) ? KINDS[kind] : undefined;
  return known?.level === level ? known.radius : LEVEL_RADIUS[level];
}

/** Whether a level is as coarse as another, or coarser. */
export function isCoarserOrSame(level: PlaceLevel, than: PlaceLevel): boolean {
  return PLACE_LEVELS.indexOf(level) >= PLACE_LEVELS.indexOf(than);
}

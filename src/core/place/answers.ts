import { compassPoint, lengthText } from '../fix/words.js';
import { bearing } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import { addressText, type AddressPattern } from './address.js';
import type { EstimatedHouse } from './house-numbers.js';
import { nameIn } from './languages.js';
import type { Address, AddressPart, PlaceAnswer, PlaceLevel } from './place.js';
import type { Nearby, PlaceIndex } from './place-index.js';
import type { Writable } from './place-table.js';

/** How answers are worded. */
export interface Wording {
  readonly languages: readonly string[];
  readonly pattern: AddressPattern | undefined;
  /** Of the plain names of the data. */
  readonly plainLanguage: string | undefined;
}

/** Parts of an address that are names, and may be translated. */
const NAMED_PARTS = ['street', 'locality', 'region', 'country'] as const;

/** Which parts tell a place on one line, from its own level to the next coarser. */
const TOLD: Readonly<Record<PlaceLevel, readonly AddressPart[]>> = {
  house: ['houseNumber', 'street', 'locality'],
  spot: ['houseNumber', 'street', 'locality'],
  street: ['street', 'locality'],
  locality: ['locality', 'region'],
  region: ['region', 'country'],
  country: ['country'],
};

/** What is known of a place beyond the data's own entry. */
interface Beyond {
  readonly estimated?: EstimatedHouse;
  /** Coarse parts of an address, for a place that has none. */
  readonly context?: Address;
}

/** Makes answers of places: in the language that is asked for, told on one line. */
export class Answers {
  readonly #index: PlaceIndex;
  readonly #wording: Wording;

  constructor(index: PlaceIndex, wording: Wording) {
    this.#index = index;
    this.#wording = wording;
  }

  /** A place by itself. */
  plain(index: number): PlaceAnswer {
    return this.#write(index, {});
  }

  /** A place as seen from a position: how far to a point of it, and which way. */
  seen(asked: Position, { index, point, distance }: Nearby): PlaceAnswer {
    return withWay(this.#write(index, {}), asked, point, distance);
  }

  /** A place that one is at. */
  at(asked: Position, { index, point, distance }: Nearby, beyond: Beyond): PlaceAnswer {
    const answer = this.#write(index, beyond);
    answer.relation = 'at';
    return withWay(answer, asked, point, distance);
  }

  /** The nearest place, where one is at none. */
  off(asked: Position, { index, point, distance }: Nearby): PlaceAnswer {
    const answer = this.#write(index, {});
    const back = bearing(point, asked);
    if (!Number.isNaN(back))
      answer.text = `${lengthText(distance)} ${compassPoint(back)} of ${titleOf(answer)}`;
    answer.relation = 'off';
    return withWay(answer, asked, point, distance);
  }

  #write(index: number, { estimated, context }: Beyond): Writable<PlaceAnswer> {
    const { table } = this.#index;
    const { name: kind, level } = table.kind(index);
    const { id, names, prominence, details } = table.extras(index);
    const { lat, lon } = estimated ?? this.#index.positionOf(index);
    const answer: Writable<PlaceAnswer> = { kind, level, text: '', lat, lon, ...context };
    if (id !== undefined) answer.id = id;
    table.putAddress(answer, index);
    if (estimated !== undefined) answer.houseNumber = estimated.houseNumber;
    const fallback: ('name' | AddressPart)[] = [];
    let language = this.#translate(answer, level, names, fallback);
    const name = table.name(index);
    if (name !== '') {
      const { languages, plainLanguage } = this.#wording;
      const found = nameIn(name, plainLanguage, names, languages);
      answer.name = found.text;
      language = found.language;
      if (!found.wanted && (level === 'house' || level === 'spot')) fallback.unshift('name');
    }
    answer.text = placeText(level, answer.name, answer, this.#wording.pattern);
    if (estimated !== undefined) answer.estimated = true;
    if (prominence !== undefined) answer.prominence = prominence;
    if (details !== undefined) answer.details = details;
    if (language !== undefined) answer.language = language;
    if (fallback.length > 0) answer.fallback = fallback;
    return answer;
  }

  /** Puts the names of an address into the language that is asked for; tells the language of the most exact. */
  #translate(
    answer: Writable<PlaceAnswer>,
    level: PlaceLevel,
    names: Readonly<Record<string, string>> | undefined,
    fallback: ('name' | AddressPart)[],
  ): string | undefined {
    const { languages, plainLanguage } = this.#wording;
    if (languages.length === 0) return plainLanguage;
    let language: string | undefined;
    for (const part of NAMED_PARTS) {
      const text = answer[part];
      if (text === undefined) continue;
      const named = this.#index.translated ? this.#index.namedNear(part, text, answer) : undefined;
      const others =
        part === level ? names : named === undefined ? undefined : this.#index.table.extras(named).names;
      const found = nameIn(text, plainLanguage, others, languages);
      answer[part] = found.text;
      if (!found.wanted) fallback.push(part);
      language ??= found.language;
    }
    return language;
  }
}

/** Adds the metres to a place, and the direction to it unless one is there. */
function withWay(
  answer: Writable<PlaceAnswer>,
  asked: Position,
  point: Position,
  metres: number,
): PlaceAnswer {
  const direction = metres > 0 ? bearing(asked, point) : NaN;
  answer.distance = metres;
  if (!Number.isNaN(direction)) answer.bearing = direction;
  return answer;
}

/** What a place is called by itself: its name, or its address on one line. */
function titleOf({ name, text }: PlaceAnswer): string {
  return name ?? text;
}

/** A place on one line: its name where it is none of the address, and the address to the next coarser part. */
function placeText(
  level: PlaceLevel,
  name: string | undefined,
  address: Address,
  pattern: AddressPattern | undefined,
): string {
  const told = TOLD[level];
  // Without a locality the region says where.
  const parts =
    told.includes('locality') && address.locality === undefined ? [...told, 'region' as const] : told;
  const line = addressText(address, pattern, parts);
  const own = name?.trim() ?? '';
  const apart =
    own !== '' &&
    (level === 'house' || level === 'spot') &&
    own !== address.locality &&
    own !== address.street;
  return [apart ? own : '', line].filter((each) => each !== '').join(', ') || own;
}

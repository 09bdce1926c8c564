import { bearing } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import type { AddressPattern } from './address.js';
import { offText, placeText } from './answer.js';
import type { EstimatedHouse } from './house-numbers.js';
import { nameIn } from './languages.js';
import type { Address, AddressPart, PlaceAnswer, PlaceLevel } from './place.js';
import type { Nearby, PlaceIndex } from './place-index.js';
import type { Writable } from './place-table.js';

/** Wording of answers. */
export interface Wording {
  readonly languages: readonly string[];
  readonly pattern: AddressPattern | undefined;
  /** Language of the plain names. */
  readonly plainLanguage: string | undefined;
}

/** Parts of an address that are names, and may be translated. */
const NAMED_PARTS = ['street', 'locality', 'region', 'country'] as const;

/** Knowledge of a place beyond its own entry in the data. */
interface Beyond {
  readonly estimated?: EstimatedHouse;
  /** Coarse parts of an address, for a place without them. */
  readonly context?: Address;
}

/** Makes answers from places: in the requested language, on one line. */
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

  /** A place in relation to a position: distance to its nearest point, and direction. */
  seen(asked: Position, { index, point, distance }: Nearby): PlaceAnswer {
    return withWay(this.#write(index, {}), asked, point, distance);
  }

  /** A place that contains the position. */
  at(asked: Position, { index, point, distance }: Nearby, beyond: Beyond): PlaceAnswer {
    const answer = this.#write(index, beyond);
    answer.relation = 'at';
    return withWay(answer, asked, point, distance);
  }

  /** The nearest place, where none contains the position. */
  off(asked: Position, { index, point, distance }: Nearby): PlaceAnswer {
    const answer = this.#write(index, {});
    answer.text = offText(asked, {
      ...point,
      ...(answer.name !== undefined && { name: answer.name }),
      text: answer.text,
    });
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

  /** Translates the names of an address; returns the language of the most exact one. */
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

/** Adds the distance to a place, and the direction unless the position is at it. */
function withWay(
  answer: Writable<PlaceAnswer>,
  asked: Position,
  point: Position,
  metres: number,
): PlaceAnswer {
  const direction = metres > 0 ? bearing(asked, point) : NaN;
  if (metres > 0 && (point.lat !== answer.lat || point.lon !== answer.lon))
    answer.nearest = { lat: point.lat, lon: point.lon };
  answer.distance = metres;
  if (!Number.isNaN(direction)) answer.bearing = direction;
  return answer;
}

import { compassPoint, lengthText } from '../fix/words.js';
import { bearing, distance } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import { addressText, type AddressPattern } from './address.js';
import {
  levelOfKind,
  type Address,
  type AddressPart,
  type Place,
  type PlaceAnswer,
  type PlaceLevel,
} from './place.js';

/** Parts that describe a place on one line, from its own level to the next coarser. */
const REPORTED: Readonly<Record<PlaceLevel, readonly AddressPart[]>> = {
  house: ['houseNumber', 'street', 'locality'],
  spot: ['houseNumber', 'street', 'locality'],
  street: ['street', 'locality'],
  locality: ['locality', 'region'],
  region: ['region', 'country'],
  country: ['country'],
};

/** A place on one line: its name, unless that is in the address, and the address to the next coarser part. */
export function placeText(
  level: PlaceLevel,
  name: string | undefined,
  address: Address,
  pattern: AddressPattern | undefined,
): string {
  const reported = REPORTED[level];
  // Without a locality the region says where.
  const parts =
    reported.includes('locality') && address.locality === undefined
      ? [...reported, 'region' as const]
      : reported;
  const line = addressText(address, pattern, parts);
  const own = name?.trim() ?? '';
  const apart =
    own !== '' &&
    (level === 'house' || level === 'spot') &&
    own !== address.locality &&
    own !== address.street;
  return [apart ? own : '', line].filter((each) => each !== '').join(', ') || own;
}

/** `1.8 km SW of Wick Orrin`: position in relation to a place. */
export function offText(
  at: Position,
  place: Position & { readonly name?: string; readonly text: string },
): string {
  const back = bearing(place, at);
  const title = place.name ?? place.text;
  return Number.isNaN(back) ? title : `${lengthText(distance(place, at))} ${compassPoint(back)} of ${title}`;
}

/** An answer in relation to a position: with new distance and direction, and a new text where it states them. */
export function seenFrom(at: Position, answer: PlaceAnswer): PlaceAnswer {
  // A position inside an area has distance 0, wherever its middle is.
  if (answer.distance === 0 && answer.relation === 'at') return answer;
  const { bearing: before, ...rest } = answer;
  const point = answer.nearest ?? answer;
  const direction = bearing(at, point);
  return {
    ...rest,
    ...(answer.relation === 'off' && { text: offText(at, { ...answer, ...point }) }),
    distance: distance(at, point),
    ...(!Number.isNaN(direction) && { bearing: direction }),
  };
}

/** Converts a place to an answer: computes the missing fields. */
export function answerOf(place: Place | PlaceAnswer, pattern: AddressPattern | undefined): PlaceAnswer {
  if ('text' in place) return place;
  const { shape, radius, names, level = levelOfKind(place.kind), ...rest } = place;
  const named: Address =
    level === 'house' || level === 'spot' || place.name === undefined ? {} : { [level]: place.name };
  const text = placeText(level, place.name, { ...named, ...rest }, pattern);
  return { ...named, ...rest, level, text };
}

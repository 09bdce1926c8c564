import { distance } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import type { Answers } from './answers.js';
import { numberBetween, type EstimatedHouse } from './house-numbers.js';
import { PLACE_LEVELS, isCoarserOrSame, type Address, type PlaceAnswer, type PlaceLevel } from './place.js';
import type { Nearby, PlaceIndex } from './place-index.js';

/** Number of houses that are compared: a nearer back door must not hide the number on the user's own street. */
const HOUSES = 8;
/** Maximum distance in metres from the middle of a street, even when a house of another street is nearer. */
const ON_STREET = 12;
/** Distance in metres within which a spot describes a position better than the next locality. */
const SPOT_NEARBY = 500;

/** Maximum distance in metres to the door of a house. */
const DOORSTEP = 15;
/** Maximum distance in metres to an estimated number between two houses. */
const ESTIMATED = 40;
/** Maximum distance in metres to the nearer of two houses around an estimated number. */
const HALF_GAP = 250;

type Found = Nearby & { readonly estimated?: EstimatedHouse };

/** Places at a position, from exact to coarse; where there is no locality, the nearest one with its distance. */
export function placesAt(
  index: PlaceIndex,
  answers: Answers,
  at: Position,
  level: PlaceLevel = 'house',
): PlaceAnswer[] {
  const street = nearestStreet(index, at);
  const house = nearestHouse(index, at, street);
  const spot = index.bestAt(at, 'spot');
  const onStreet = street ?? streetOfHouse(index, at, house);
  const reported = house ?? onStreet;
  const address: Address =
    reported === undefined
      ? spot === undefined
        ? {}
        : index.table.addressOf(spot.index)
      : index.table.addressOf(reported.index);
  const locality = index.partAt(at, 'locality', address);
  const coarser = locality === undefined ? address : { ...index.table.addressOf(locality.index), ...address };
  const found: Partial<Record<PlaceLevel, Found | undefined>> = {
    house,
    spot,
    street: onStreet,
    locality,
    region: index.partAt(at, 'region', coarser),
  };
  const region = found.region === undefined ? {} : index.table.addressOf(found.region.index);
  found.country = index.partAt(at, 'country', { ...region, ...coarser });
  const context = contextOf(coarser);
  const all = PLACE_LEVELS.flatMap((each) => {
    const there = found[each];
    return there === undefined
      ? []
      : [
          answers.at(at, there, {
            ...(there.estimated !== undefined && { estimated: there.estimated }),
            ...(each === 'spot' && { context }),
          }),
        ];
  });
  if (locality === undefined) all.push(...offThem(index, answers, at, spot !== undefined));
  const order = (answer: PlaceAnswer) => orderOf(answer, nearerSpot(index, spot, house));
  return all
    .filter((answer) => isCoarserOrSame(answer.level, level))
    .sort((a, b) => order(a) - order(b) || (a.distance ?? 0) - (b.distance ?? 0));
}

/** Whether a spot describes a position better than a house: a hut with a nearer door, not a park around it. */
function nearerSpot(index: PlaceIndex, spot: Nearby | undefined, house: Nearby | undefined): boolean {
  if (spot === undefined || house === undefined || index.table.extras(spot.index).shape !== undefined)
    return false;
  return spot.distance < house.distance;
}

function orderOf({ level }: PlaceAnswer, spotFirst: boolean): number {
  return level === 'spot' && spotFirst ? -1 : PLACE_LEVELS.indexOf(level);
}

/** The nearest locality, or a spot that is better; where there is neither, the nearest place of any kind. */
function offThem(index: PlaceIndex, answers: Answers, at: Position, atSpot: boolean): PlaceAnswer[] {
  const locality = nearestOf(index, at, 'locality', Infinity);
  const reach = locality === undefined ? Infinity : Math.min(SPOT_NEARBY, locality.distance / 2);
  const spot = atSpot ? undefined : nearestOf(index, at, 'spot', reach);
  const near = [spot, locality].filter((each) => each !== undefined);
  if (near.length > 0 || atSpot) return near.map((each) => answers.off(at, each));
  const [other] = PLACE_LEVELS.flatMap((level) => nearestOf(index, at, level, Infinity) ?? []);
  return other === undefined ? [] : [answers.off(at, other)];
}

function nearestOf(index: PlaceIndex, at: Position, level: PlaceLevel, metres: number): Nearby | undefined {
  const ofLevel = index.ofLevel(level);
  const points = index.nearest(at, ofLevel, 1, metres);
  return [...points, ...index.shapesWithin(at, ofLevel, Number.isFinite(metres) ? metres : 2e7)].reduce<
    Nearby | undefined
  >((min, each) => (min === undefined || each.distance < min.distance ? each : min), undefined);
}

function nearestStreet(index: PlaceIndex, at: Position): Nearby | undefined {
  const [line] = index
    .shapesWithin(at, index.ofLevel('street'), index.reach('street'))
    .filter((each) => each.distance <= index.table.radius(each.index));
  return line ?? index.bestAt(at, 'street');
}

/** The house at a position: on its own street if there is one, with an estimated number where that is nearer. */
function nearestHouse(index: PlaceIndex, at: Position, street: Nearby | undefined): Found | undefined {
  const { table } = index;
  const near = index
    .nearest(at, index.ofLevel('house'), HOUSES, Math.max(HALF_GAP, index.reach('house')))
    .sort((a, b) => a.distance - b.distance);
  const reached = near.filter((each) => each.distance <= table.radius(each.index));
  const streetName =
    street !== undefined && street.distance <= ON_STREET ? table.streetOf[street.index] : undefined;
  const isOnStreet = (each: Nearby) => streetName !== undefined && table.streetOf[each.index] === streetName;
  const house = reached.find(isOnStreet) ?? reached[0];
  const known = house ?? near.find(isOnStreet) ?? near[0];
  if (known === undefined || (house !== undefined && house.distance <= DOORSTEP)) return house;
  const estimated = numberBetween(at, index.housesOf(table.streetOf[known.index] as number));
  const far = estimated === undefined ? Infinity : distance(at, estimated);
  if (estimated === undefined || far > ESTIMATED || (house !== undefined && far >= house.distance))
    return house;
  return { index: known.index, point: estimated, distance: far, estimated };
}

/** The street of a house, where the data has it as a place. */
function streetOfHouse(index: PlaceIndex, at: Position, house: Nearby | undefined): Nearby | undefined {
  if (house === undefined) return undefined;
  const { street } = index.table.addressOf(house.index);
  const found = street === undefined ? undefined : index.namedNear('street', street, at);
  // A street with the same name elsewhere is another street.
  const same = found !== undefined && index.table.streetOf[found] === index.table.streetOf[house.index];
  return same ? index.measured(at, found) : undefined;
}

/** Address of a spot without one: the coarse parts of the place around it. */
function contextOf({ locality, region, country }: Address): Address {
  return {
    ...(locality !== undefined && { locality }),
    ...(region !== undefined && { region }),
    ...(country !== undefined && { country }),
  };
}

import { InputError } from '../check/input-error.js';
import { anything, checkOptions, numberFrom } from '../check/options.js';
import { suggestion } from '../check/suggest.js';
import { positionOf, type Position } from '../geodesy/position.js';
import type { EdgePlace, LaneGraph, Stretch } from './lane-graph.js';
import { graphOf, type Network } from './network.js';
import { raisedBy, raisedLength, type Raised, type RaisedPart } from './raised.js';
import { TRAVEL_KINDS, TRAVEL_RULES, type TravelRule } from './travel-kinds.js';
import { Travel, type Preference } from './travel.js';
import { NoWayError, type Way, type WayRequest } from './way.js';
import { checkWayRequest } from './way-request.js';
import { WaySearch, type FoundWay } from './way-search.js';
import { arcOf, stepsOf } from './way-steps.js';

/** Options of `WayFinder`. */
export interface WayFinderOptions {
  /**
   * Rules of own kinds of travel, by name. One called `foot`, `cycle` or `drive` takes the place of the rule that
   * ships.
   */
  readonly rules?: Readonly<Record<string, TravelRule>>;
  /** Metres from a position to the nearest open lane, at most. Default 1000. */
  readonly reach?: number;
}

/** Multiple of the cost of lanes that another choice uses already. */
const USED = 1.5;
/**
 * A further choice costs at most this multiple of the best, and shares at most this part of its length with another.
 */
const WORSE = 1.5;
const SHARED = 0.7;

/** Finds ways over a network. Each kind of travel is prepared when it is first asked for. */
export class WayFinder {
  readonly network: Network;
  readonly #graph: LaneGraph;
  readonly #rules: Readonly<Record<string, TravelRule>>;
  readonly #reach: number;
  readonly #travels = new Map<string, Travel>();
  #search: WaySearch | undefined;

  /** @throws {InputError} for a misspelt or impossible option. */
  constructor(network: Network, options: WayFinderOptions = {}) {
    checkOptions('WayFinder', options, { rules: anything, reach: numberFrom(1, 100_000, 'metres') });
    this.network = network;
    this.#graph = graphOf(network);
    this.#rules = { ...TRAVEL_RULES, ...options.rules };
    this.#reach = options.reach ?? 1000;
  }

  /** Names of the kinds of travel. */
  get kinds(): readonly string[] {
    return Object.keys(this.#rules);
  }

  /**
   * Finds the best way, and more where they differ, the best first.
   *
   * @throws {NoWayError} if there is none. It has the nearest place that can be reached.
   * @throws {InputError} for an impossible position, an unknown kind of travel, and a misspelt option.
   */
  find(request: WayRequest): readonly Way[] {
    checkWayRequest(request);
    const {
      by = TRAVEL_KINDS[0],
      prefer = 'fastest',
      via = [],
      avoid = [],
      closed = [],
      choices = 1,
    } = request;
    const travel = this.#travel(by, prefer);
    const raised = raisedBy(this.#graph, avoid, closed);
    const places = [request.from, ...via, request.to].map(positionOf);
    const stops = places.map((at, i) => this.#snap(travel, raised, at, nameOf(i, places.length)));
    const search = (this.#search ??= new WaySearch(this.#graph));
    const legs = (extra: Raised) =>
      stops.slice(1).map((stop, i) => search.find(travel, stops[i] as EdgePlace, stop, extra));
    const best = legs(raised);
    const blocked = best.indexOf(undefined);
    if (blocked !== -1)
      throw this.#noWay(travel, raised, stops[blocked] as EdgePlace, places[blocked + 1] as Position);
    const found = [best as FoundWay[]];
    const used = new Map<number, RaisedPart[]>(Array.from(raised, ([edge, parts]) => [edge, [...parts]]));
    for (let tries = 0; found.length < choices && tries < 2 * choices; tries++) {
      for (const { edge } of (found.at(-1) as FoundWay[]).flatMap(({ stretches }) => stretches)) {
        const whole = { from: 0, to: this.#graph.lengths[edge] as number, factor: USED };
        used.set(edge, [...(used.get(edge) ?? []), whole]);
      }
      const next = legs(used) as FoundWay[];
      if (next.every(Boolean) && this.#differs(next, found, travel, raised)) found.push(next);
    }
    return found
      .map((each) => ({ each, cost: this.#costOf(each, travel, raised) }))
      .sort((a, b) => a.cost - b.cost)
      .map(({ each }) => this.#wayOf(by, travel, raised, each, places, stops));
  }

  /** The speeds of a kind of travel. */
  #travel(by: string, prefer: Preference): Travel {
    const rule = Object.hasOwn(this.#rules, by) ? this.#rules[by] : undefined;
    if (rule === undefined)
      throw new InputError('bad-value', `no kind of travel "${by}", ${suggestion(by, this.kinds)}`);
    const key = `${prefer} ${by}`;
    const known = this.#travels.get(key);
    if (known !== undefined) return known;
    const travel = new Travel(this.#graph, rule, prefer);
    // One rule at a time is prepared: its costs are the largest part of a network in memory.
    this.#travels.clear();
    this.#travels.set(key, travel);
    return travel;
  }

  #snap(travel: Travel, raised: Raised, at: Position, name: string): EdgePlace {
    const isOpen = (edge: number) =>
      travel.isOpen(edge) && !isClosedAt(raised, edge, this.#graph.nearestOn(edge, at).along);
    const place = this.#graph.nearest(at, this.#reach, isOpen);
    if (place !== undefined) return place;
    const far = this.#graph.nearest(at, 2e7, isOpen);
    throw new NoWayError(
      'off-network',
      `no open lane within ${this.#reach} m of ${name}` +
        (far === undefined ? '' : `; the nearest is ${Math.round(far.distance)} m away`),
      far && { lat: far.lat, lon: far.lon },
      far?.distance,
    );
  }

  #noWay(travel: Travel, raised: Raised, from: EdgePlace, to: Position): NoWayError {
    const reached = (this.#search as WaySearch).reachable(travel, from, raised);
    const isNear = (arc: number) =>
      travel.speed(arc) > 0 && !isClosedAt(raised, arc >> 1, this.#graph.nearestOn(arc >> 1, to).along);
    const nearest =
      typeof reached === 'function'
        ? this.#graph.nearest(to, 2e7, (edge) =>
            [2 * edge, 2 * edge + 1].some((arc) => isNear(arc) && reached(this.#graph.tailOf(arc))),
          )
        : this.#graph.nearestOf(
            [
              from.edge,
              ...this.#graph
                .arcsFrom(reached)
                .filter(isNear)
                .map((arc) => arc >> 1),
            ],
            to,
          );
    const place = nearest && `at ${nearest.lat.toFixed(5)}, ${nearest.lon.toFixed(5)}`;
    return new NoWayError(
      'no-way',
      'no way leads there' +
        (nearest === undefined
          ? ''
          : `; the nearest place that can be reached, ${place}, is ${Math.round(nearest.distance)} m away from it`),
      nearest && { lat: nearest.lat, lon: nearest.lon },
      nearest?.distance,
    );
  }

  /** Whether a way is not much worse than the best, and another one than those before. */
  #differs(
    way: readonly FoundWay[],
    found: readonly (readonly FoundWay[])[],
    travel: Travel,
    raised: Raised,
  ): boolean {
    const [best = []] = found;
    if (this.#costOf(way, travel, raised) > WORSE * this.#costOf(best, travel, raised)) return false;
    const stretches = way.flatMap((leg) => leg.stretches);
    const all = stretches.reduce((sum, stretch) => sum + lengthOf(stretch), 0);
    return found.every((other) => {
      const edges = new Set(other.flatMap((leg) => leg.stretches.map(({ edge }) => edge)));
      const shared = stretches.reduce((sum, each) => sum + (edges.has(each.edge) ? lengthOf(each) : 0), 0);
      return shared <= SHARED * all;
    });
  }

  #costOf(way: readonly FoundWay[], travel: Travel, raised: Raised): number {
    return way
      .flatMap(({ stretches }) => stretches)
      .reduce(
        (sum, each) => sum + travel.costOf(arcOf(each), raisedLength(raised, each.edge, each.from, each.to)),
        0,
      );
  }

  #wayOf(
    by: string,
    travel: Travel,
    raised: Raised,
    found: readonly FoundWay[],
    places: readonly Position[],
    stops: readonly EdgePlace[],
  ): Way {
    const legs = found.map(({ stretches }) => ({
      stretches: stretches.filter((each, i) => lengthOf(each) > 0 || (i === 0 && stretches.length === 1)),
    }));
    const all = legs.flatMap(({ stretches }) => stretches);
    const steps = stepsOf(travel, legs);
    const points: Position[] = [places[0] as Position];
    for (const { edge, from, to } of all) points.push(...this.#graph.stretch(edge, from, to));
    points.push(places.at(-1) as Position);
    const end = steps.at(-1);
    return {
      by,
      line: { parts: [withoutRepeats(points)] },
      metres: end?.along ?? 0,
      seconds: steps.reduce((sum, step) => sum + step.seconds, 0),
      walk: [(stops[0] as EdgePlace).distance, (stops.at(-1) as EdgePlace).distance],
      steps,
      via: stops.slice(1, -1).map(({ lat, lon }) => ({ lat, lon })),
      enters: [...new Set(all.flatMap((stretch) => entered(raised, stretch)))],
    };
  }
}

function nameOf(i: number, count: number): string {
  return i === 0 ? 'the start' : i === count - 1 ? 'the target' : `via ${i}`;
}

function lengthOf({ from, to }: Stretch): number {
  return Math.abs(to - from);
}

function isClosedAt(raised: Raised, edge: number, along: number): boolean {
  return (raised.get(edge) ?? []).some(
    ({ from, to, factor }) => factor === Infinity && along > from && along < to,
  );
}

/** Names of the areas to avoid that a stretch enters. */
function entered(raised: Raised, { edge, from, to }: Stretch): string[] {
  const [low, high] = [Math.min(from, to), Math.max(from, to)];
  return (raised.get(edge) ?? []).flatMap((part) =>
    part.fence !== undefined && Math.min(high, part.to) > Math.max(low, part.from) ? [part.fence.name] : [],
  );
}

function withoutRepeats(points: readonly Position[]): Position[] {
  return points.filter((point, i) => {
    const before = points[i - 1];
    return (
      before === undefined ||
      Math.abs(before.lat - point.lat) > 1e-9 ||
      Math.abs(before.lon - point.lon) > 1e-9
    );
  });
}

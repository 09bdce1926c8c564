import { RADIUS_IN_DEVIATIONS } from '../fix/confidence.js';
import { distance } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import { NearWays } from './near-ways.js';
import type { EdgePlace, LaneGraph, Stretch } from './lane-graph.js';

/** A position that is to be matched. */
export interface LaneSight extends Position {
  /** Milliseconds since 1970 UTC. */
  readonly time: number;
  /** Radius of 95 %, metres. */
  readonly accuracy: number;
  /** Metres per second, if the receiver states it. */
  readonly speed?: number | undefined;
}

/** A sight and its place: on the network, or off it. */
export interface LaneMatch {
  readonly sight: LaneSight;
  readonly place: EdgePlace | undefined;
  /** The way over the network from the place before; absent after a place off the network and at the start. */
  readonly way: readonly Stretch[] | undefined;
}

/** Places of the network that are tried for a sight. */
const TRIED = 8;
/** Candidates that are kept for the next sight, and the cost beyond the best from which one is dropped. */
const KEPT = 12;
const FAINT = 25;
/** Metres between two sights that are matched, at least, and as a multiple of the deviation: errors are correlated. */
const APART = 10;
const APART_DEVIATIONS = 1.2;
/** Least deviation of a sight from the lane in metres: lanes are drawn as their middle. */
const LEAST = 4;
/** Deviations within which a place is tried. */
const REACH = 4;
/** Cost of a place off the network, and of leaving the network and coming back to it. */
const OFF = 3.2;
const LEAVE = 2.5;
const RETURN = 2.5;
/** Cost of a sight that is passed over, as an error of the receiver, and how many may be in a row. */
const SKIP = 3;
const SKIPPED = 3;
/** The way over the network may be longer than the straight one by this much at the cost of 1: metres, and a share. */
const DETOUR = 4;
const DETOUR_SHARE = 0.12;
/** The same share where the speed is stated, which changes between the sights. */
const SPEED_SHARE = 0.25;
/** Metres and multiple of the straight way up to which ways are tried. */
const LONGEST = 120;
const LONGEST_SHARE = 3;

/** A matched sight, and the one before it in its sequence. */
interface Link {
  readonly place: EdgePlace | undefined;
  readonly sight: LaneSight;
  before: Link | undefined;
  /** Length of the way from the place before; `undefined` where it is not on the network. */
  readonly metres: number | undefined;
}

/** A sequence of matches, by its end. */
interface Candidate {
  readonly link: Link;
  readonly cost: number;
  /** Sights that were passed over since its end. */
  readonly skipped: number;
}

/**
 * Finds the lanes that a trail was on: a hidden Markov model whose states are the places of the network near each
 * sight, and off the network (P. Newson, J. Krumm, Hidden Markov map matching through noise and sparseness, 2009). The
 * most likely sequence of all is kept (A. Viterbi, 1967).
 */
export class LaneMatcher {
  readonly #network: LaneGraph;
  readonly #isOpen: (arc: number) => boolean;
  readonly #ways: NearWays;
  readonly #lag: number;
  /** The best first. */
  #candidates: readonly Candidate[] = [];
  #sight: LaneSight | undefined;
  /** The match up to which all were given out. */
  #given: Link | undefined;

  /**
   * @param isOpen whether an arc may be travelled.
   * @param lag seconds after which a match is given out, whatever comes.
   */
  constructor(network: LaneGraph, isOpen: (arc: number) => boolean, lag: number) {
    this.#network = network;
    this.#isOpen = isOpen;
    this.#ways = new NearWays(network, isOpen);
    this.#lag = lag;
  }

  /** The most likely place now; `undefined` off the network, and before the first sight. */
  get place(): EdgePlace | undefined {
    return this.#candidates[0]?.link.place;
  }

  /** Takes the next sight, and returns matches that nothing can change any more, or that are older than the lag. */
  take(sight: LaneSight): LaneMatch[] {
    const deviation = Math.max(LEAST, sight.accuracy / RADIUS_IN_DEVIATIONS);
    const apart = Math.max(APART, APART_DEVIATIONS * deviation);
    if (this.#sight !== undefined && distance(this.#sight, sight) < apart) return [];
    this.#sight = sight;
    const places = this.#network
      .near(sight, REACH * deviation, (edge) => this.#isOpen(2 * edge) || this.#isOpen(2 * edge + 1))
      .slice(0, TRIED);
    const next = [...this.#skipping(), ...this.#seen(sight, deviation, [...places, undefined])];
    const least = next.reduce((min, { cost }) => Math.min(min, cost), Infinity);
    this.#candidates = next
      .map((each) => ({ ...each, cost: each.cost - least }))
      .filter(({ cost }) => cost < FAINT)
      .sort((a, b) => a.cost - b.cost)
      .slice(0, KEPT);
    return this.#settled(sight.time - this.#lag * 1000);
  }

  /** Gives out all that is left, and begins anew. */
  end(): LaneMatch[] {
    const all = this.#upTo(this.#candidates[0]?.link);
    this.#candidates = [];
    this.#sight = undefined;
    this.#given = undefined;
    return all;
  }

  /** Sequences that pass over the sight, as an error of the receiver. */
  #skipping(): Candidate[] {
    return this.#candidates
      .filter(({ skipped, link }) => link.place !== undefined && skipped < SKIPPED)
      .map(({ link, cost, skipped }) => ({ link, cost: cost + SKIP, skipped: skipped + 1 }));
  }

  /** The best sequence to each of some places of a sight; `undefined` is off the network. */
  #seen(sight: LaneSight, deviation: number, places: readonly (EdgePlace | undefined)[]): Candidate[] {
    const best: (Candidate | undefined)[] = places.map(() => undefined);
    const offer = (i: number, from: Candidate | undefined, step: number, metres?: number) => {
      const place = places[i];
      const seen = place === undefined ? OFF : (place.distance / deviation) ** 2 / 2;
      const cost = (from?.cost ?? 0) + step + seen;
      if (cost < (best[i]?.cost ?? Infinity))
        best[i] = { link: { place, sight, before: from?.link, metres }, cost, skipped: 0 };
    };
    if (this.#candidates.length === 0) places.forEach((_, i) => offer(i, undefined, 0));
    for (const candidate of this.#candidates) {
      const { place: from, sight: seen } = candidate.link;
      const straight = distance(seen, sight);
      const travelled = travelledBetween(seen, sight);
      const moved = travelled ?? straight;
      const spread = DETOUR + deviation / 2 + (travelled === undefined ? DETOUR_SHARE : SPEED_SHARE) * moved;
      if (from !== undefined) this.#ways.begin(from, LONGEST + LONGEST_SHARE * straight);
      places.forEach((place, i) => {
        if (place === undefined) offer(i, candidate, from === undefined ? 0 : LEAVE);
        else if (from === undefined) offer(i, candidate, RETURN);
        else {
          const metres = this.#ways.metresTo(place);
          if (metres < Infinity) offer(i, candidate, Math.abs(metres - moved) / spread, metres);
        }
      });
    }
    return best.filter((each) => each !== undefined);
  }

  /** Matches that all sequences share, or that are older than a time: sequences without them are dropped. */
  #settled(until: number): LaneMatch[] {
    const shared = new Map<Link, number>();
    for (const { link } of this.#candidates)
      for (const each of this.#chain(link)) shared.set(each, (shared.get(each) ?? 0) + 1);
    const common = this.#chain(this.#candidates[0]?.link).find(
      (link) => shared.get(link) === this.#candidates.length || link.sight.time <= until,
    );
    if (common === undefined) return [];
    this.#candidates = this.#candidates.filter(({ link }) => this.#chain(link).includes(common));
    return this.#upTo(common);
  }

  /** A match and those before it that were not given out, backwards. */
  #chain(end: Link | undefined): Link[] {
    const chain: Link[] = [];
    for (let link = end; link !== undefined && link !== this.#given; link = link.before) chain.push(link);
    return chain;
  }

  /** Matches after those given out, up to one. */
  #upTo(end: Link | undefined): LaneMatch[] {
    const matches = this.#chain(end)
      .reverse()
      .map(({ place, sight, metres, before }) => {
        if (place === undefined || before?.place === undefined || metres === undefined)
          return { sight, place, way: undefined };
        this.#ways.begin(before.place, metres + 1);
        return { sight, place, way: this.#ways.wayTo(place) };
      });
    if (end !== undefined) {
      // What lies before it is needed no more.
      this.#given = end;
      end.before = undefined;
    }
    return matches;
  }
}

/** Metres travelled between two sights by their stated speeds. */
function travelledBetween(from: LaneSight, to: LaneSight): number | undefined {
  return from.speed === undefined || to.speed === undefined
    ? undefined
    : (((from.speed + to.speed) / 2) * (to.time - from.time)) / 1000;
}

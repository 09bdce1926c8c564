import { callable, checkOptions, numberFrom, oneOf } from '../check/options.js';
import { isUnsound } from '../estimate/fix-order.js';
import { PathFilter } from '../estimate/path-filter.js';
import { smoothTrail } from '../estimate/smooth-trail.js';
import type { Fix } from '../fix/fix.js';
import { distance } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import type { Trail } from '../trail/trail.js';
import { LaneMatcher, type LaneMatch, type LaneSight } from './lane-matcher.js';
import type { EdgePlace, LaneGraph } from './lane-graph.js';
import { withoutSpurs, type TimedStretch } from './spurs.js';
import { graphOf, type Network } from './network.js';
import { TRAVEL_KINDS, TRAVEL_RULES, type TravelKind, type TravelRule } from './travel-kinds.js';
import { Travel } from './travel.js';

/** A lane that was travelled. */
export interface TravelledLane {
  /** Absent for a lane without a name. */
  readonly name?: string;
  readonly kind?: string;
  readonly metres: number;
  /** When it was entered, milliseconds since 1970 UTC. */
  readonly start: number;
}

/** A part of a trail on the network, or off it. */
export interface MatchedPart {
  readonly on: boolean;
  /** On the network the lanes; off it the trail. */
  readonly line: readonly Position[];
  readonly metres: number;
  /** Milliseconds since 1970 UTC. */
  readonly start: number;
  readonly end: number;
  /** In the order in which they were travelled; none off the network. */
  readonly lanes: readonly TravelledLane[];
  /** The edges of the network with the metres along them, in order. */
  readonly stretches: readonly { readonly edge: number; readonly from: number; readonly to: number }[];
}

/** A trail on a network. */
export interface TrailMatch {
  readonly parts: readonly MatchedPart[];
  /** Metres on the network, and off it. */
  readonly on: number;
  readonly off: number;
}

/** Options of a match. */
export interface MatchOptions {
  /** Only lanes that are open to a kind of travel, in its directions: `foot`, `cycle`, `drive`. Default: all. */
  readonly by?: TravelKind;
  /** The same by an own rule. */
  readonly rule?: TravelRule;
  /** Seconds after which a live match is final, 5 to 3600. Default 60. */
  readonly lag?: number;
}

/** Metres up to which turning back and forth on a lane is noise. */
const SPUR = 25;

/**
 * The lanes of a network that a trail was on, its length on them, and the parts that were off the network. The trail is
 * smoothed first: positions between two fixes far apart are those of the shortest way over the network.
 *
 * @throws {InputError} for a misspelt option.
 */
export function matchTrail(trail: Trail, network: Network, options: MatchOptions = {}): TrailMatch {
  const watch = new LaneWatch(network, { ...options, lag: 3600 });
  const smooth = smoothTrail(trail);
  const matches: LaneMatch[] = [];
  for (const segment of smooth.segments) {
    for (const fix of smooth.fixesOf(segment))
      if (!isUnsound(fix)) matches.push(...watch.takeSight(sightOf(fix, fix)));
    matches.push(...watch.breakSegment());
  }
  return trailMatchOf(network, matches);
}

/** The lane on which a user is, fix by fix, and the lanes that are certain after a lag. */
export class LaneWatch {
  readonly #graph: LaneGraph;
  readonly #matcher: LaneMatcher;
  readonly #filter = new PathFilter();

  /** @throws {InputError} for a misspelt or impossible option. */
  constructor(network: Network, options: MatchOptions = {}) {
    checkOptions('LaneWatch', options, {
      by: oneOf(...TRAVEL_KINDS),
      rule: callable,
      lag: numberFrom(5, 3600, 'seconds'),
    });
    const { by, rule = by && TRAVEL_RULES[by], lag = 60 } = options;
    this.#graph = graphOf(network);
    const travel = rule && new Travel(this.#graph, rule, 'shortest');
    const isOpen = (arc: number) => travel === undefined || travel.speed(arc) > 0;
    this.#matcher = new LaneMatcher(this.#graph, isOpen, lag);
  }

  /** The most likely place on the network now; `undefined` off it. It may change until the lag has passed. */
  get place(): EdgePlace | undefined {
    return this.#matcher.place;
  }

  /** Name of the lane at the place, if it has one. */
  get lane(): string | undefined {
    const name = this.place === undefined ? undefined : this.#graph.lane(this.place.edge)['name'];
    return typeof name === 'string' ? name : undefined;
  }

  /** Takes the next fix, and returns the matches that are final. */
  take(fix: Fix): LaneMatch[] {
    if (isUnsound(fix)) return [];
    const outcome = this.#filter.take(fix);
    if (outcome === 'refused') return [];
    const ended = outcome === 'jump' ? this.#matcher.end() : [];
    return [
      ...ended,
      ...this.takeSight(sightOf(this.#filter.position, { ...fix, accuracy: this.#filter.accuracy })),
    ];
  }

  /** Takes a position that is filtered already. */
  takeSight(sight: LaneSight): LaneMatch[] {
    return this.#matcher.take(sight);
  }

  /** A pause or a gap. Returns the matches before it. */
  breakSegment(): LaneMatch[] {
    this.#filter.breakSegment();
    return this.#matcher.end();
  }
}

function sightOf({ lat, lon }: Position, { time, accuracy = 20, speed }: Fix): LaneSight {
  return { lat, lon, time, accuracy, speed };
}

/** Parts and lanes of final matches, in their order. */
export function trailMatchOf(network: Network, matches: readonly LaneMatch[]): TrailMatch {
  const parts: MatchedPart[] = [];
  let open: { on: boolean; matches: LaneMatch[] } | undefined;
  const close = () => {
    if (open !== undefined && open.matches.length > 1)
      parts.push(partOf(graphOf(network), open.on, open.matches));
  };
  for (const match of matches) {
    const on = match.place !== undefined;
    const joined = open !== undefined && open.on === on && (!on || match.way !== undefined);
    if (!joined) {
      close();
      open = { on, matches: on || open === undefined ? [] : open.matches.slice(-1) };
    }
    open?.matches.push(match);
  }
  close();
  const sum = (on: boolean) => parts.reduce((all, part) => all + (part.on === on ? part.metres : 0), 0);
  return { parts, on: sum(true), off: sum(false) };
}

function partOf(graph: LaneGraph, on: boolean, matches: readonly LaneMatch[]): MatchedPart {
  const [start = 0, end = 0] = [matches[0]?.sight.time, matches.at(-1)?.sight.time];
  if (!on) {
    const line = matches.map(({ sight }) => ({ lat: sight.lat, lon: sight.lon }));
    const metres = line.reduce(
      (sum, at, i) => sum + (i === 0 ? 0 : distance(line[i - 1] as Position, at)),
      0,
    );
    return { on, line, metres, start, end, lanes: [], stretches: [] };
  }
  const path = matches.flatMap(({ way }, i): TimedStretch[] => {
    const time = matches[i - 1]?.sight.time ?? start;
    return i === 0 || way === undefined ? [] : way.map((stretch) => ({ ...stretch, time }));
  });
  const stretches = withoutSpurs(path, SPUR);
  const lanes: TravelledLane[] = [];
  const line: Position[] = [];
  let all = 0;
  for (const { edge, from, to, time } of stretches) {
    const metres = Math.abs(to - from);
    all += metres;
    line.push(...graph.stretch(edge, from, to).slice(line.length === 0 ? 0 : 1));
    const { name, kind } = graph.lane(edge);
    const labels = { ...(typeof name === 'string' && { name }), ...(typeof kind === 'string' && { kind }) };
    const last = lanes.at(-1);
    if (last !== undefined && last.name === labels.name && last.kind === labels.kind)
      lanes[lanes.length - 1] = { ...last, metres: last.metres + metres };
    else lanes.push({ ...labels, metres, start: time });
  }
  return {
    on,
    line,
    metres: all,
    start,
    end,
    lanes,
    stretches: stretches.map(({ edge, from, to }) => ({ edge, from, to })),
  };
}

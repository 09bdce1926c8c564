import { BoundsGatherer, boxAround, plainBoxes, type Bounds } from '../geodesy/bounds.js';
import { distanceBetween } from '../geodesy/distance.js';
import { metresPerDegree } from '../geodesy/local-scale.js';
import type { Position } from '../geodesy/position.js';
import { alongStraight } from '../geodesy/straight.js';
import { wrapLongitude } from '../geodesy/wgs84.js';
import { UNITS, boxIndex, searchBoxes, type BoxIndex } from './boxes.js';
import { Contraction } from './contraction.js';
import { lists } from './int-lists.js';
import type { LaneProperties } from './travel-kinds.js';

/** The lines of a network, as they came: a million of them are not a million objects more. */
export interface Lanes {
  readonly properties: readonly LaneProperties[];
  /** Ids of the features that have one, by lane. */
  readonly ids: ReadonlyMap<number, string>;
}

/** A place on an edge of the network. */
export interface EdgePlace extends Position {
  readonly edge: number;
  /** Metres from the first point of the edge. */
  readonly along: number;
  /** Metres from the position that was asked for. */
  readonly distance: number;
}

/** A part of a way on one edge, from a place to a place in metres along it. */
export interface Stretch {
  readonly edge: number;
  readonly from: number;
  readonly to: number;
}

/** The parts of a network as flat lists, from its builder. */
export interface GraphParts {
  readonly lanes: Lanes;
  /** Coordinates of the points of all edges, in units. */
  readonly lats: Int32Array;
  readonly lons: Int32Array;
  /** First and last point of each edge. */
  readonly firsts: Int32Array;
  readonly lasts: Int32Array;
  /** Nodes at the ends of each edge. */
  readonly from: Int32Array;
  readonly to: Int32Array;
  /** Lane of each edge. */
  readonly laneOf: Int32Array;
  /** A point of each node. */
  readonly nodePoints: Int32Array;
}

/**
 * Lanes as a graph: nodes where they meet or end, and edges between them. Everything is in flat lists of numbers; the
 * properties of the lanes are those of the given document.
 */
export class LaneGraph {
  readonly parts: GraphParts;
  /** Length of each edge, metres on the ellipsoid. */
  readonly lengths: Float64Array;
  /** Arcs of each node: twice the edge, plus 1 against its direction. */
  readonly arcs: { readonly starts: Int32Array; readonly items: Int32Array };
  readonly #boxes: BoxIndex;
  /** Edges of boxes: an edge across the date line has two. */
  readonly #boxEdges: Int32Array;
  #contraction: Contraction | undefined;

  constructor(parts: GraphParts) {
    this.parts = parts;
    const { lats, lons, firsts, lasts, from, to } = parts;
    const count = firsts.length;
    this.lengths = new Float64Array(count);
    for (let edge = 0; edge < count; edge++) {
      let metres = 0;
      for (let k = firsts[edge] as number; k < (lasts[edge] as number); k++) metres += this.stepLength(k);
      this.lengths[edge] = metres;
    }
    this.arcs = lists(parts.nodePoints.length, 2 * count, (arc) => {
      const edge = arc >> 1;
      return [(arc & 1 ? to[edge] : from[edge]) as number, arc];
    });
    const boxes: Bounds[] = [];
    const boxEdges: number[] = [];
    for (let edge = 0; edge < count; edge++) {
      const gatherer = new BoundsGatherer();
      for (let k = firsts[edge] as number; k <= (lasts[edge] as number); k++)
        gatherer.add((lats[k] as number) / UNITS, (lons[k] as number) / UNITS);
      for (const box of plainBoxes(gatherer.bounds as Bounds)) {
        boxes.push(box);
        boxEdges.push(edge);
      }
    }
    this.#boxes = boxIndex(boxes);
    this.#boxEdges = Int32Array.from(boxEdges);
  }

  get edgeCount(): number {
    return this.lengths.length;
  }

  get nodeCount(): number {
    return this.parts.nodePoints.length;
  }

  /** The shortcuts, made when they are first needed. */
  get contraction(): Contraction {
    return (this.#contraction ??= this.#contract());
  }

  /** Properties of the lane of an edge. */
  lane(edge: number): LaneProperties {
    return this.parts.lanes.properties[this.parts.laneOf[edge] as number] as LaneProperties;
  }

  /** Name of an edge for reports. */
  label(edge: number): string {
    return labelOf(this.parts.lanes, this.parts.laneOf[edge] as number);
  }

  /** Node at the end of an arc. */
  headOf(arc: number): number {
    const { from, to } = this.parts;
    return (arc & 1 ? from : to)[arc >> 1] as number;
  }

  /** Node at the start of an arc. */
  tailOf(arc: number): number {
    return this.headOf(arc ^ 1);
  }

  /** Arcs that leave some nodes. */
  arcsFrom(nodes: readonly number[]): number[] {
    const { starts, items } = this.arcs;
    return nodes.flatMap((node) => [...items.subarray(starts[node], starts[node + 1])]);
  }

  /** The stretch of a whole arc, in its direction. */
  whole(arc: number): Stretch {
    const length = this.lengths[arc >> 1] as number;
    return { edge: arc >> 1, from: arc & 1 ? length : 0, to: arc & 1 ? 0 : length };
  }

  /** Position of a point. */
  point(k: number): Position {
    const { lats, lons } = this.parts;
    return { lat: (lats[k] as number) / UNITS, lon: (lons[k] as number) / UNITS };
  }

  /** Position of a node. */
  node(node: number): Position {
    return this.point(this.parts.nodePoints[node] as number);
  }

  /** Metres from point `k` to the next. */
  stepLength(k: number): number {
    const { lats, lons } = this.parts;
    return distanceBetween(
      (lats[k] as number) / UNITS,
      (lons[k] as number) / UNITS,
      (lats[k + 1] as number) / UNITS,
      (lons[k + 1] as number) / UNITS,
    );
  }

  /** Place on an edge some metres from its first point. */
  placeOn(edge: number, along: number): Position {
    const { firsts, lasts } = this.parts;
    const last = lasts[edge] as number;
    if (along === 0) return this.point(firsts[edge] as number);
    if (along === this.lengths[edge]) return this.point(last);
    let left = along;
    for (let k = firsts[edge] as number; k < last; k++) {
      const step = this.stepLength(k);
      if (left <= step || k === last - 1)
        return this.#between(k, step > 0 ? Math.max(0, Math.min(1, left / step)) : 0);
      left -= step;
    }
    return this.point(last);
  }

  /** Points of an edge between two places on it, these included; against its direction if `to` is before `from`. */
  stretch(edge: number, from: number, to: number): Position[] {
    const { firsts, lasts } = this.parts;
    const [low, high] = [Math.min(from, to), Math.max(from, to)];
    if (low === 0 && high === this.lengths[edge]) {
      const [first, last] = [firsts[edge] as number, lasts[edge] as number];
      return Array.from({ length: last - first + 1 }, (_, k) =>
        this.point(from <= to ? first + k : last - k),
      );
    }
    const points = [this.placeOn(edge, low)];
    let along = 0;
    for (let k = firsts[edge] as number; k < (lasts[edge] as number); k++) {
      along += this.stepLength(k);
      if (along > low && along < high) points.push(this.point(k + 1));
    }
    points.push(this.placeOn(edge, high));
    return from <= to ? points : points.reverse();
  }

  /** Edges with a box that meets a box. */
  edgesIn(bounds: Bounds): number[] {
    const found = new Set<number>();
    for (const i of searchBoxes(this.#boxes, bounds)) found.add(this.#boxEdges[i] as number);
    return [...found];
  }

  /** Edges near a position: the nearest place of each, within a distance, the nearest first. */
  near(at: Position, metres: number, isOpen: (edge: number) => boolean): EdgePlace[] {
    return this.edgesIn(boxAround(at, metres))
      .filter(isOpen)
      .map((edge) => this.nearestOn(edge, at))
      .filter((place) => place.distance <= metres)
      .sort((a, b) => a.distance - b.distance);
  }

  /** The nearest place of an open edge, within a distance. Edges are tested by their distance. */
  nearest(at: Position, most: number, isOpen: (edge: number) => boolean): EdgePlace | undefined {
    const tested = new Set<number>();
    for (let metres = Math.min(100, most); ; metres = Math.min(most, metres * 4)) {
      for (const place of this.near(at, metres, (edge) => !tested.has(edge))) {
        if (isOpen(place.edge)) return place;
        tested.add(place.edge);
      }
      if (metres >= most) return undefined;
    }
  }

  /** The place of some edges that is nearest to a position. */
  nearestOf(edges: readonly number[], at: Position): EdgePlace | undefined {
    return edges
      .map((edge) => this.nearestOn(edge, at))
      .reduce<EdgePlace | undefined>(
        (best, place) => (best && best.distance <= place.distance ? best : place),
        undefined,
      );
  }

  /** The place of an edge that is nearest to a position. */
  nearestOn(edge: number, at: Position): EdgePlace {
    const { firsts, lasts, lats, lons } = this.parts;
    const scale = metresPerDegree(at.lat);
    let [best, bestStep, bestShare] = [Infinity, firsts[edge] as number, 0];
    const x = (k: number) => wrapLongitude((lons[k] as number) / UNITS - at.lon) * scale.east;
    const y = (k: number) => ((lats[k] as number) / UNITS - at.lat) * scale.north;
    for (let k = firsts[edge] as number; k < (lasts[edge] as number); k++) {
      const [fromX, fromY] = [x(k), y(k)];
      const [dx, dy] = [x(k + 1) - fromX, y(k + 1) - fromY];
      const square = dx * dx + dy * dy;
      const share = square === 0 ? 0 : Math.max(0, Math.min(1, -(fromX * dx + fromY * dy) / square));
      const [ex, ey] = [fromX + share * dx, fromY + share * dy];
      if (ex * ex + ey * ey >= best) continue;
      [best, bestStep, bestShare] = [ex * ex + ey * ey, k, share];
    }
    let along = bestShare * this.stepLength(bestStep);
    for (let k = firsts[edge] as number; k < bestStep; k++) along += this.stepLength(k);
    return {
      ...this.#between(bestStep, bestShare),
      edge,
      along: Math.min(along, this.lengths[edge] as number),
      distance: Math.sqrt(best),
    };
  }

  #between(k: number, share: number): Position {
    if (share === 0) return this.point(k);
    if (share === 1) return this.point(k + 1);
    return alongStraight(this.point(k), this.point(k + 1), share);
  }

  #contract(): Contraction {
    const { nodePoints, lats, lons, from, to } = this.parts;
    const x = Float64Array.from(nodePoints, (k) => lons[k] as number);
    const y = Float64Array.from(nodePoints, (k) => lats[k] as number);
    return new Contraction({ x, y, ends: [from, to] });
  }
}

/** Name of a lane for reports: its name or id, or its number. */
export function labelOf({ properties, ids }: Lanes, lane: number): string {
  const name = properties[lane]?.['name'];
  return typeof name === 'string' && name !== '' ? name : (ids.get(lane) ?? `line ${lane + 1}`);
}

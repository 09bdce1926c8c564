import Flatbush from 'flatbush';
import { polygonShape } from '../fence/polygon.js';
import { ahead } from '../geodesy/ahead.js';
import { BoundsGatherer, plainBoxes, type Bounds } from '../geodesy/bounds.js';
import { nearestOnLine } from '../geodesy/nearest-on-line.js';
import type { Position } from '../geodesy/position.js';
import type { PlaceShape } from './place.js';

/** A shape near a position. */
export interface ShapeNearby {
  /** Index of its place. */
  readonly index: number;
  /** Distance in metres; 0 inside an area. */
  readonly distance: number;
  /** Its point nearest to the position: the position itself inside an area. */
  readonly point: Position;
  /** Size of its box in square degrees: the smaller of two areas is more exact. */
  readonly size: number;
}

interface Shape {
  readonly index: number;
  readonly bounds: Bounds;
  readonly nearest: (at: Position) => { readonly point: Position; readonly distance: number } | undefined;
}

/** Index of lines and areas by position. */
export class ShapeIndex {
  readonly #shapes: readonly Shape[];
  readonly #boxes: Flatbush | undefined;
  /** Shape of each box: a shape across the date line has two. */
  readonly #owners: readonly Shape[];

  constructor(shapes: Iterable<readonly [index: number, shape: PlaceShape]>) {
    this.#shapes = [...shapes].map(([index, shape]) => shapeOf(index, shape));
    const boxes = this.#shapes.flatMap((shape) => plainBoxes(shape.bounds).map((box) => ({ shape, box })));
    this.#owners = boxes.map(({ shape }) => shape);
    if (boxes.length === 0) return;
    this.#boxes = new Flatbush(boxes.length);
    for (const { box } of boxes) this.#boxes.add(...box);
    this.#boxes.finish();
  }

  get size(): number {
    return this.#shapes.length;
  }

  /** Shapes within a distance, nearest first; of those that contain the position, the smallest first. */
  within(at: Position, metres: number): ShapeNearby[] {
    const owners = this.#candidates(at, metres);
    const found: ShapeNearby[] = [];
    for (const { index, bounds, nearest } of owners) {
      const near = nearest(at);
      if (near === undefined || near.distance > metres) continue;
      const [west, south, east, north] = bounds;
      found.push({ index, ...near, size: (east - west + (east < west ? 360 : 0)) * (north - south) });
    }
    return found.sort((a, b) => a.distance - b.distance || a.size - b.size);
  }

  #candidates(at: Position, metres: number): Iterable<Shape> {
    const boxes = this.#boxes;
    if (boxes === undefined) return [];
    // Half around the earth: all shapes.
    if (metres > 1e7) return this.#shapes;
    const north = ahead(at, 0, metres);
    const south = ahead(at, 180, metres);
    const overPole = Math.abs(north.lon - at.lon) > 90 || Math.abs(south.lon - at.lon) > 90;
    const top = overPole && at.lat > 0 ? 90 : north.lat;
    const bottom = overPole && at.lat < 0 ? -90 : south.lat;
    // A degree of longitude is shortest where the box is nearest to a pole.
    const shortest = Math.cos((Math.max(Math.abs(top), Math.abs(bottom)) * Math.PI) / 180) * 110_000;
    const wide = shortest * 180 <= metres ? 180 : metres / shortest;
    const searched: Bounds =
      wide >= 180 ? [-180, bottom, 180, top] : [wrapped(at.lon - wide), bottom, wrapped(at.lon + wide), top];
    return new Set(
      plainBoxes(searched).flatMap((box) => boxes.search(...box).map((i) => this.#owners[i] as Shape)),
    );
  }
}

function wrapped(lon: number): number {
  return lon < -180 ? lon + 360 : lon > 180 ? lon - 360 : lon;
}

function shapeOf(index: number, shape: PlaceShape): Shape {
  const gatherer = new BoundsGatherer();
  const add = (line: readonly Position[]) => line.forEach(({ lat, lon }) => gatherer.add(lat, lon));
  if (shape.kind === 'line') shape.parts.forEach(add);
  else shape.parts.forEach((part) => part.forEach(add));
  const bounds = gatherer.bounds ?? [0, 0, 0, 0];
  if (shape.kind === 'line') return { index, bounds, nearest: (at) => nearestOf(at, shape.parts) };
  const area = polygonShape({ kind: 'polygon', id: '', name: '', parts: shape.parts });
  const edges = shape.parts.flatMap((part) => part.map(closed));
  return {
    index,
    bounds,
    nearest: (at) => (area.depth(at.lat, at.lon) >= 0 ? { point: at, distance: 0 } : nearestOf(at, edges)),
  };
}

function nearestOf(at: Position, lines: readonly (readonly Position[])[]) {
  return lines
    .flatMap((line) => nearestOnLine(at, line) ?? [])
    .reduce<{ point: Position; distance: number } | undefined>(
      (best, near) => (best === undefined || near.distance < best.distance ? near : best),
      undefined,
    );
}

function closed(ring: readonly Position[]): readonly Position[] {
  const [first] = ring;
  return first === undefined ? ring : [...ring, first];
}

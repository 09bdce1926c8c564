import { FNV_START, fnv1aByte } from '../check/fnv.js';
import { checkOptions, numberFrom } from '../check/options.js';
import type { Fence, FenceShape } from '../fence/fence.js';
import { shapeOf } from '../fence/shape.js';
import type { TrackContent } from '../formats/track-document.js';
import { distanceBetween } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import { randomFrom, type Random } from '../motion/random.js';
import type { Line } from './line.js';
import { labelsOf } from './part.js';
import { Trail } from './trail.js';

export interface VeilOptions {
  /** Metres, 0 to 10 000. Beside an area, as much more is cut off as chance says, up to this. Default 200. */
  readonly margin?: number;
}

/** What a veil did. */
export interface Veiled {
  readonly content: TrackContent;
  /** How often something was cut out of a trail or line. */
  readonly cuts: number;
  readonly fixes: number;
  /** Points of lines and routes. */
  readonly points: number;
  readonly waypoints: number;
}

/**
 * Areas whose inside never leaves the device, such as around a home: what is exported or shared goes through a veil first.
 *
 * Fixes, points and waypoints in an area are left out, and those that lead there, as far from its edge as chance says, so that ends do
 * not draw the edge. Chance is taken from what is hidden: the same trail is always cut at the same places, and exporting it often tells no
 * more than exporting it once.
 */
export class Veil {
  readonly #shapes: readonly FenceShape[];
  readonly #margin: number;

  /** @throws {InputError} for a misspelt option or a margin out of range. */
  constructor(areas: Iterable<Fence>, options: VeilOptions = {}) {
    checkOptions('Veil', options, { margin: numberFrom(0, 10_000, 'm') });
    this.#shapes = Array.from(areas, shapeOf);
    this.#margin = options.margin ?? 200;
  }

  /** Whether a position is in one of the areas. */
  hides({ lat, lon }: Position): boolean {
    return this.#shapes.some((shape) => shape.depth(lat, lon) >= 0);
  }

  /** Metres beside an area that are hidden at most. */
  get margin(): number {
    return this.#margin;
  }

  /** Metres to the nearest area; 0 in one, `Infinity` where there is none. */
  away({ lat, lon }: Position): number {
    return this.#shapes.reduce(
      (least, shape) => Math.min(least, Math.max(0, -shape.depth(lat, lon))),
      Infinity,
    );
  }

  /** A trail without what is in the areas; its `veiled` counts the cuts. Raw fixes that stay are as they were. */
  trail(trail: Trail): Trail {
    const random = this.#randomOf(trail);
    const runs = trail.segments.flatMap(({ start, end }) =>
      this.#visible(
        Array.from({ length: end - start }, (_, i) => positionAt(trail, start + i)),
        random,
      ).map(([from, to]) => [start + from, start + to] as const),
    );
    const kept = runs.reduce((sum, [from, to]) => sum + to - from, 0);
    const cuts = cutsBetween(
      runs,
      trail.segments.map(({ start, end }) => [start, end]),
    );
    const veiled = new Trail({
      ...labelsOf(trail),
      ...(cuts + (trail.veiled ?? 0) > 0 && { veiled: cuts + (trail.veiled ?? 0) }),
    });
    if (kept === trail.length && cuts === 0) return trail;
    for (const [from, to] of runs) {
      for (let i = from; i < to; i++) veiled.appendFrom(trail, i);
      veiled.breakSegment();
    }
    return veiled;
  }

  /** A line without what is in the areas; `undefined` when nothing is left. */
  line(line: Line): Line | undefined {
    const random = this.#randomOf(line.parts.flat());
    const parts = line.parts.flatMap((part) =>
      this.#visible(part, random).map(([from, to]) => part.slice(from, to)),
    );
    return parts.length === 0 ? undefined : { ...line, parts };
  }

  /** All that goes into a file. */
  tracks({ trails = [], lines = [], routes = [], waypoints = [], ...rest }: TrackContent): Veiled {
    const veiled = trails.map((trail) => this.trail(trail));
    const through = (all: readonly Line[]) =>
      all.map((line) => this.line(line)).filter((line) => line !== undefined);
    const seen = waypoints.filter((waypoint) => !this.hides(waypoint));
    const content = {
      ...rest,
      trails: veiled.filter((trail) => trail.length > 0),
      lines: through(lines),
      routes: through(routes),
      waypoints: seen,
    };
    const points = (all: readonly Line[]) => all.reduce((sum, { parts }) => sum + parts.flat().length, 0);
    const count = (all: readonly Trail[]) => all.reduce((sum, { length }) => sum + length, 0);
    return {
      content,
      cuts: veiled.reduce((sum, trail, i) => sum + (trail.veiled ?? 0) - (trails[i]?.veiled ?? 0), 0),
      fixes: count(trails) - count(veiled),
      points: points([...lines, ...routes]) - points([...content.lines, ...content.routes]),
      waypoints: waypoints.length - seen.length,
    };
  }

  /** Runs of points of a path that may be seen, [from, to) each. A step that crosses an area ends a run. */
  #visible(path: readonly Position[], random: Random): [number, number][] {
    const inside = path.map((at) => this.hides(at));
    /** Whether the step to the next point goes through an area. */
    const crosses = path.map((at, i) => {
      const next = path[i + 1];
      if (next === undefined) return false;
      return (
        inside[i] === true || inside[i + 1] === true || this.#shapes.some((s) => s.cuts(at, next).length > 0)
      );
    });
    const hidden = Uint8Array.from(inside, Number);
    crosses.forEach((crossed, i) => {
      if (!crossed) return;
      if (inside[i] !== true) this.#hideFrom(path, i, -1, hidden, crosses, random.uniform() * this.#margin);
      if (inside[i + 1] !== true)
        this.#hideFrom(path, i + 1, 1, hidden, crosses, random.uniform() * this.#margin);
    });
    const runs: [number, number][] = [];
    let from: number | undefined;
    path.forEach((_, i) => {
      if (hidden[i] === 0) from ??= i;
      const ends = hidden[i] === 1 || crosses[i] === true;
      if (!ends || from === undefined) return;
      runs.push([from, hidden[i] === 1 ? i : i + 1]);
      from = undefined;
    });
    if (from !== undefined) runs.push([from, path.length]);
    return runs;
  }

  /** Hides points away from an edge until so many metres from it along the path, or until the next area. */
  #hideFrom(
    path: readonly Position[],
    start: number,
    step: 1 | -1,
    hidden: Uint8Array,
    crosses: readonly boolean[],
    metres: number,
  ): void {
    const first = path[start] as Position;
    let walked = Math.min(...this.#shapes.map((shape) => Math.abs(shape.depth(first.lat, first.lon))));
    for (let i = start; walked < metres; i += step) {
      hidden[i] = 1;
      const next = path[i + step];
      const at = path[i] as Position;
      if (next === undefined || crosses[step === 1 ? i : i - 1] === true) return;
      walked += distanceBetween(at.lat, at.lon, next.lat, next.lon);
    }
  }

  /** Chance that only who knows what is hidden can foretell: made of the numbers of what is inside. */
  #randomOf(path: Iterable<Position & { readonly time?: number }>): Random {
    let hash = FNV_START;
    const numbers = new Float64Array(3);
    const bytes = new Uint8Array(numbers.buffer);
    for (const at of path) {
      if (!this.hides(at)) continue;
      numbers.set([at.lat, at.lon, at.time ?? 0]);
      for (const byte of bytes) hash = fnv1aByte(byte, hash);
    }
    return randomFrom(hash >>> 0);
  }
}

function positionAt(trail: Trail, i: number): Position {
  return { lat: trail.number(i, 'lat'), lon: trail.number(i, 'lon') };
}

/** How many stretches of the segments are in no run. */
function cutsBetween(
  runs: readonly (readonly [number, number])[],
  segments: readonly (readonly [number, number])[],
): number {
  let cuts = 0;
  for (const [start, end] of segments) {
    const own = runs.filter(([from]) => from >= start && from < end);
    if (own.length === 0) {
      cuts++;
      continue;
    }
    if ((own[0]?.[0] ?? start) > start) cuts++;
    if ((own.at(-1)?.[1] ?? end) < end) cuts++;
    cuts += own.length - 1;
  }
  return cuts;
}

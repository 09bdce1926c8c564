import { FNV_START, fnv1aByte } from '../check/fnv.js';
import { checkOptions, numberFrom, someText } from '../check/options.js';
import type { Fence, FenceShape } from '../fence/fence.js';
import { shapeOf } from '../fence/shape.js';
import type { TrackContent } from '../formats/track-document.js';
import { distanceBetween } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import { randomFrom, type Random } from '../motion/random.js';
import type { Line } from './line.js';
import { labelsOf } from './part.js';
import { Trail } from './trail.js';

/** Options of `Veil`. */
export interface VeilOptions {
  /** Metres, 0 to 10 000. Around an area, a random length up to this is cut off in addition. Default 200. */
  readonly margin?: number;
  /**
   * A secret text that stays on the device and never changes. Without it, someone who guesses the exact areas can
   * compute how much is cut off around them.
   */
  readonly secret?: string;
}

/** Result of a veil. */
export interface Veiled {
  readonly content: TrackContent;
  /** Number of parts that were cut out of a trail or line. */
  readonly cuts: number;
  readonly fixes: number;
  /** Points of lines and routes. */
  readonly points: number;
  readonly waypoints: number;
}

/**
 * Areas whose inside never leaves the device, such as around a home: everything that is exported or shared passes
 * through a veil first.
 *
 * Fixes, points and waypoints in an area are left out, and also those on the way to it, from a random distance, so that
 * the ends do not reveal the edge. The random numbers depend on the areas, the secret, and the two fixes between which
 * the path meets an area. So the same trail is always cut at the same places, even after it has grown, and exporting it
 * often reveals no more than exporting it once.
 */
export class Veil {
  readonly #shapes: readonly FenceShape[];
  readonly #margin: number;
  /** Seed of the random numbers: known only to those who know the areas and the secret. */
  readonly #key: number;

  /** @throws {InputError} for a misspelt option or a margin out of range. */
  constructor(areas: Iterable<Fence>, options: VeilOptions = {}) {
    checkOptions('Veil', options, { margin: numberFrom(0, 10_000, 'm'), secret: someText });
    const list = [...areas];
    this.#shapes = list.map(shapeOf);
    // The complete geometry of the areas; timetables have no effect.
    this.#key = hashOfText(JSON.stringify([list, options.secret ?? '']), FNV_START);
    this.#margin = options.margin ?? 200;
  }

  /** Whether a position is in one of the areas. */
  hides({ lat, lon }: Position): boolean {
    return this.#shapes.some((shape) => shape.depth(lat, lon) >= 0);
  }

  /** Maximum hidden distance around an area, in metres. */
  get margin(): number {
    return this.#margin;
  }

  /** Metres to the nearest area; 0 inside one, `Infinity` where there is none. */
  away({ lat, lon }: Position): number {
    return this.#shapes.reduce((min, shape) => Math.min(min, Math.max(0, -shape.depth(lat, lon))), Infinity);
  }

  /** A trail without the parts in the areas; its `veiled` counts the cuts. The remaining fixes are unchanged. */
  trail(trail: Trail): Trail {
    const runs = trail.segments.flatMap(({ start, end }) =>
      this.#visible(Array.from({ length: end - start }, (_, i) => placeAt(trail, start + i))).map(
        ([from, to]) => [start + from, start + to] as const,
      ),
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

  /** A line without the parts in the areas; `undefined` when nothing is left. */
  line(line: Line): Line | undefined {
    const parts = line.parts.flatMap((part) => this.#visible(part).map(([from, to]) => part.slice(from, to)));
    return parts.length === 0 ? undefined : { ...line, parts };
  }

  /** Applies the veil to the whole content of a file. */
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

  /** Visible ranges of points of a path, [from, to) each. A step that crosses an area ends a range. */
  #visible(path: readonly Place[]): [number, number][] {
    const inside = path.map((at) => this.hides(at));
    /** Whether the step to the next point crosses an area. */
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
      const random = this.#randomAt(path[i] as Place, path[i + 1] as Place);
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

  /** Hides points from an edge to a distance along the path, or to the next area. */
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

  /** Random number for a step that meets an area: always the same for the same step. */
  #randomAt(from: Place, to: Place): Random {
    let hash = this.#key;
    const numbers = new Float64Array([from.lat, from.lon, from.time ?? 0, to.lat, to.lon, to.time ?? 0]);
    for (const byte of new Uint8Array(numbers.buffer)) hash = fnv1aByte(byte, hash);
    return randomFrom(hash >>> 0);
  }
}

type Place = Position & { readonly time?: number };

function placeAt(trail: Trail, i: number): Place {
  return { lat: trail.number(i, 'lat'), lon: trail.number(i, 'lon'), time: trail.number(i, 'time') };
}

function hashOfText(text: string, start: number): number {
  let hash = start;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    hash = fnv1aByte(code & 0xff, fnv1aByte(code >> 8, hash));
  }
  return hash;
}

/** Number of parts of the segments that are in no range. */
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

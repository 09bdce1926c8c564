import Flatbush from 'flatbush';
import { InputError } from '../check/input-error.js';
import { BoundsGatherer, boxAround, plainBoxes, type Bounds } from './bounds.js';
import { distance } from './distance.js';
import { metresPerDegree } from './local-scale.js';
import type { Position } from './position.js';
import { alongStraight } from './straight.js';
import { DEGREES, RADIANS, wrapBearing, wrapLongitude } from './wgs84.js';

/** Steps of the line in one box of the index. */
const STEPS_IN_BOX = 16;
/** Metres: points of the line that are nearer to each other than this, and lead the same way, are one place. */
const ONE_PLACE = 5;
/** Cosine of the angle up to which the line leads the same way. */
const SAME_WAY = 0.5;

/** A point of the line that is nearer to a position than the line before and after it. */
export interface LinePlace extends Position {
  /** Metres along the line. */
  readonly along: number;
  /** Metres from the position. */
  readonly distance: number;
  /** Metres to the right of the line at which the position is; negative to the left. */
  readonly aside: number;
  /** Direction of the line there, degrees clockwise from true north; at a corner, behind it. */
  readonly course: number;
  /** At a corner: the direction of the line before it. */
  readonly arrives?: number;
}

/** A line with an index: metres along it, and a search for its places near a position. */
export class IndexedLine {
  readonly points: readonly Position[];
  /** Metres from the first point to each point. */
  readonly #along: Float64Array;
  readonly #lat: Float64Array;
  readonly #lon: Float64Array;
  readonly #boxes: Flatbush;
  /** First step of each box: a box across the date line is entered as two. */
  readonly #starts: number[] = [];

  /** @throws {InputError} for fewer than two different points. */
  constructor(points: readonly Position[]) {
    const kept = points.filter((point, i) => {
      const before = points[i - 1];
      return before === undefined || before.lat !== point.lat || before.lon !== point.lon;
    });
    if (kept.length < 2) throw new InputError('bad-value', 'a line needs two different points at least');
    this.points = kept;
    this.#lat = Float64Array.from(kept, ({ lat }) => lat);
    this.#lon = Float64Array.from(kept, ({ lon }) => lon);
    this.#along = new Float64Array(kept.length);
    for (let k = 1; k < kept.length; k++)
      this.#along[k] = this.alongOf(k - 1) + distance(kept[k - 1] as Position, kept[k] as Position);
    const boxes: Bounds[] = [];
    for (let start = 0; start < kept.length - 1; start += STEPS_IN_BOX) {
      const gatherer = new BoundsGatherer();
      for (let k = start; k <= Math.min(kept.length - 1, start + STEPS_IN_BOX); k++) {
        const { lat, lon } = kept[k] as Position;
        gatherer.add(lat, lon);
      }
      for (const box of plainBoxes(gatherer.bounds as Bounds)) {
        boxes.push(box);
        this.#starts.push(start);
      }
    }
    this.#boxes = new Flatbush(boxes.length);
    for (const box of boxes) this.#boxes.add(...box);
    this.#boxes.finish();
  }

  /** Metres. */
  get length(): number {
    return this.alongOf(this.points.length - 1);
  }

  /** Metres along the line to its point `k`. */
  alongOf(k: number): number {
    return this.#along[k] as number;
  }

  /** The place some metres along the line, at its ends for less than 0 or more than its length. */
  placeAt(along: number): Position & { readonly course: number } {
    let [low, high] = [0, this.points.length - 1];
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (this.alongOf(middle) <= along) low = middle;
      else high = middle;
    }
    const [from, to] = [this.points[low] as Position, this.points[high] as Position];
    const step = this.alongOf(high) - this.alongOf(low);
    const share = step > 0 ? Math.max(0, Math.min(1, (along - this.alongOf(low)) / step)) : 0;
    return { ...alongStraight(from, to, share), course: courseOf(from, to) };
  }

  /** Points of the line from a place to another, these included, in metres along it. */
  part(from: number, to: number): Position[] {
    const inside = this.points.filter((_, k) => this.alongOf(k) > from && this.alongOf(k) < to);
    const [start, end] = [this.placeAt(from), this.placeAt(to)].map(({ lat, lon }) => ({ lat, lon }));
    return [start as Position, ...inside, end as Position];
  }

  /** Places of the line within a distance of a position, in order along the line. */
  near(at: Position, metres: number): LinePlace[] {
    const scale = metresPerDegree(at.lat);
    const starts = new Set<number>();
    for (const box of plainBoxes(boxAround(at, metres)))
      for (const i of this.#boxes.search(...box)) starts.add(this.#starts[i] as number);
    const places: LinePlace[] = [];
    const last = this.points.length - 2;
    const most = metres * metres;
    /** Whether the step before is nearest at its end. */
    let atCorner = false;
    let next = -1;
    for (const start of [...starts].sort((a, b) => a - b)) {
      if (start !== next) atCorner = false;
      next = start + STEPS_IN_BOX;
      const end = Math.min(next, last + 1);
      let x = wrapLongitude((this.#lon[start] as number) - at.lon) * scale.east;
      let y = ((this.#lat[start] as number) - at.lat) * scale.north;
      for (let k = start; k < end; k++) {
        const toX = wrapLongitude((this.#lon[k + 1] as number) - at.lon) * scale.east;
        const toY = ((this.#lat[k + 1] as number) - at.lat) * scale.north;
        const [dx, dy] = [toX - x, toY - y];
        const share = Math.max(0, Math.min(1, -(x * dx + y * dy) / (dx * dx + dy * dy)));
        const [ex, ey] = [x + share * dx, y + share * dy];
        // Inside a step it is nearest by itself; at a corner, if both steps are nearest there.
        const isCorner = share === 0 && atCorner;
        const isNearest = share > 0 ? share < 1 || k === last : k === 0 || isCorner;
        atCorner = share === 1;
        if (isNearest && ex * ex + ey * ey <= most) {
          const place = this.#placeOn(k, share, ex, ey, dx, dy);
          push(places, isCorner ? { ...place, arrives: this.#courseBefore(k, scale) } : place);
        }
        [x, y] = [toX, toY];
      }
    }
    return places;
  }

  /**
   * The places that are nearest to a position, and those up to `slack` metres farther away, in order along the line.
   */
  nearestPlaces(at: Position, slack: number): LinePlace[] {
    for (let metres = Math.max(30, 2 * slack); ; metres *= 4) {
      const found = this.near(at, metres);
      const most = slack + found.reduce((least, place) => Math.min(least, place.distance), Infinity);
      if (most <= metres) return found.filter((place) => place.distance <= most);
    }
  }

  /** The place of the line that is nearest to a position, however far away. */
  nearest(at: Position): LinePlace {
    return this.nearestPlaces(at, 0).reduce((best, place) => (place.distance < best.distance ? place : best));
  }

  /** Direction of the step before point `k`. */
  #courseBefore(k: number, { east, north }: ReturnType<typeof metresPerDegree>): number {
    const dx = wrapLongitude((this.#lon[k] as number) - (this.#lon[k - 1] as number)) * east;
    const dy = ((this.#lat[k] as number) - (this.#lat[k - 1] as number)) * north;
    return wrapBearing(Math.atan2(dx, dy) * DEGREES);
  }

  /** A place on a step, `ex` and `ey` metres from the position; the step is `dx` and `dy` metres long. */
  #placeOn(k: number, share: number, ex: number, ey: number, dx: number, dy: number): LinePlace {
    const away = Math.sqrt(ex * ex + ey * ey);
    const start = this.alongOf(k);
    const { lat, lon } = alongStraight(this.points[k] as Position, this.points[k + 1] as Position, share);
    return {
      lat,
      lon,
      along: start + share * (this.alongOf(k + 1) - start),
      distance: away,
      aside: ey * dx - ex * dy >= 0 ? away : -away,
      course: wrapBearing(Math.atan2(dx, dy) * DEGREES),
    };
  }
}

/** Adds a place; of two that are one place, the nearer stays. */
function push(places: LinePlace[], place: LinePlace): void {
  const last = places.at(-1);
  if (last === undefined || place.along - last.along > ONE_PLACE || turns(last, place)) places.push(place);
  else if (place.distance < last.distance) places[places.length - 1] = place;
}

/** Whether the line leads another way at a place than at another. */
function turns(one: LinePlace, other: LinePlace): boolean {
  return Math.cos((one.course - other.course) * RADIANS) < SAME_WAY;
}

function courseOf(from: Position, to: Position): number {
  const scale = metresPerDegree((from.lat + to.lat) / 2);
  const east = wrapLongitude(to.lon - from.lon) * scale.east;
  return wrapBearing(Math.atan2(east, (to.lat - from.lat) * scale.north) * DEGREES);
}

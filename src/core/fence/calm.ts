import type { Position } from '../geodesy/position.js';
import { wrapLongitude } from '../geodesy/wgs84.js';
import type { Seen } from './post.js';

/** So many 95 % radii from an edge every side that may be asked for is certain. */
export const SURE_BEYOND = 2;
/** A plane is right to this share so near. */
export const FLAT = 0.99;

/** Metres a degree, at a place. */
export interface Scale {
  readonly east: number;
  readonly north: number;
}

/** Metres, in a plane: good enough for how far to look. */
export function flatDistance(from: Position, to: Position, { east, north }: Scale): number {
  const right = wrapLongitude(to.lon - from.lon) * east;
  const up = (to.lat - from.lat) * north;
  return Math.sqrt(right * right + up * up);
}

/** A circle around a place within which nothing can change. */
export class Calm {
  #centre: Position = { lat: 0, lon: 0 };
  #scale: Scale = { east: 0, north: 0 };
  #radius = 0;

  /** @param radius metres; 0 for none. */
  begin(centre: Position, scale: Scale, radius: number): void {
    this.#centre = centre;
    this.#scale = scale;
    this.#radius = radius;
  }

  end(): void {
    this.#radius = 0;
  }

  get any(): boolean {
    return this.#radius > 0;
  }

  /** Whether a place is in it, and nothing can change for all that it is not sure. */
  holds(at: Seen): boolean {
    const room = (this.#radius - SURE_BEYOND * (at.accuracy ?? 0)) * FLAT;
    return flatDistance(this.#centre, at, this.#scale) < room;
  }
}

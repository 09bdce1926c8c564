import { InputError } from '../check/input-error.js';
import type { Bounds } from '../geodesy/bounds.js';
import { placeProblem, type Position } from '../geodesy/position.js';
import {
  ECCENTRICITY_SQUARED,
  EQUATORIAL_RADIUS,
  RADIANS,
  wrapBearing,
  wrapLongitude,
} from '../geodesy/wgs84.js';
import { latitudeOf, longitudeOf, mercatorX, mercatorY } from './mercator.js';

/** Pixels: x to the right, y downwards, from the top left corner. */
export interface Pixel {
  readonly x: number;
  readonly y: number;
}

/** Figures of a camera. */
export interface CameraView {
  readonly centre: Position;
  /** 0 to 22, fractions allowed: at zoom z the whole world is 256 · 2^z pixels wide. */
  readonly zoom: number;
  /** Degrees clockwise from true north that point up. */
  readonly turn: number;
  /** Size of the picture in pixels, above 0. */
  readonly width: number;
  readonly height: number;
}

/** Smallest zoom of a map: the whole world in 256 pixels. */
export const MIN_ZOOM = 0;
/** Largest zoom of a map. */
export const MAX_ZOOM = 22;
/** Width of the world at zoom 0 in pixels. */
const WORLD = 256;

/** The view of a map: an immutable value that converts between positions and pixels. */
export class Camera implements CameraView {
  readonly centre: Position;
  readonly zoom: number;
  readonly turn: number;
  readonly width: number;
  readonly height: number;
  readonly #x: number;
  readonly #y: number;
  readonly #scale: number;
  readonly #cos: number;
  readonly #sin: number;

  /**
   * @throws {InputError} for a zoom that is out of range or not a number, an impossible centre, or an empty picture.
   */
  constructor({
    centre,
    zoom,
    turn = 0,
    width,
    height,
  }: Omit<CameraView, 'turn'> & { readonly turn?: number }) {
    const problem = placeProblem(centre);
    if (problem !== undefined) throw new InputError('impossible-position', problem);
    if (typeof zoom !== 'number' || !(zoom >= MIN_ZOOM && zoom <= MAX_ZOOM)) {
      throw new InputError(
        'bad-value',
        `zoom must be a number from ${MIN_ZOOM} to ${MAX_ZOOM}, got ${zoom as unknown as string}`,
      );
    }
    if (typeof turn !== 'number' || !Number.isFinite(turn)) {
      throw new InputError('bad-value', `turn must be a number of degrees, got ${turn as unknown as string}`);
    }
    if (!(width > 0 && height > 0))
      throw new InputError('bad-value', `a map of ${width} by ${height} pixels shows nothing`);
    this.centre = centre;
    this.zoom = zoom;
    this.turn = wrapBearing(turn);
    this.width = width;
    this.height = height;
    this.#x = mercatorX(centre.lon);
    this.#y = mercatorY(centre.lat);
    this.#scale = WORLD * 2 ** zoom;
    this.#cos = Math.cos(turn * RADIANS);
    this.#sin = Math.sin(turn * RADIANS);
  }

  /** Width of the whole world in pixels. */
  get scale(): number {
    return this.#scale;
  }

  with(change: Partial<CameraView>): Camera {
    const { centre, zoom, turn, width, height } = this;
    return new Camera({ centre, zoom, turn, width, height, ...change });
  }

  /** The pixel of a position, in the copy of the world that is nearest to the centre. */
  pixelOf(position: Position): Pixel {
    return this.pixelOfWorld(mercatorX(position.lon), mercatorY(position.lat));
  }

  /** `pixelOf` for a point of the Mercator square. */
  pixelOfWorld(x: number, y: number): Pixel {
    return this.pixelOfUnwrapped(x - Math.round(x - this.#x), y);
  }

  /** The same for a point whose copy of the world is chosen already. */
  pixelOfUnwrapped(x: number, y: number): Pixel {
    const px = (x - this.#x) * this.#scale;
    const py = (y - this.#y) * this.#scale;
    return {
      x: this.width / 2 + px * this.#cos + py * this.#sin,
      y: this.height / 2 - px * this.#sin + py * this.#cos,
    };
  }

  /** The centre's x on the Mercator square. */
  get worldX(): number {
    return this.#x;
  }

  /** The point of the Mercator square at a pixel, in the copy of the world of the centre: x may be outside 0…1. */
  worldAt(x: number, y: number): Pixel {
    const rx = x - this.width / 2;
    const ry = y - this.height / 2;
    return {
      x: this.#x + (rx * this.#cos - ry * this.#sin) / this.#scale,
      y: this.#y + (rx * this.#sin + ry * this.#cos) / this.#scale,
    };
  }

  /** The position at a pixel; beyond the edges of the Mercator square, its edge. */
  positionAt(x: number, y: number): Position {
    const at = this.worldAt(x, y);
    return { lat: latitudeOf(Math.max(0, Math.min(1, at.y))), lon: wrapLongitude(longitudeOf(at.x)) };
  }

  /** Metres per pixel at the centre. */
  get metresPerPixel(): number {
    return this.metresPerPixelAt(this.centre.lat);
  }

  /**
   * The same at a latitude, from west to east: the parallel there has the radius N cos φ of the ellipsoid. From south
   * to north it is up to 0.7 % less, because Web Mercator takes the earth for a sphere.
   */
  metresPerPixelAt(lat: number): number {
    const sin = Math.sin(lat * RADIANS);
    const prime = EQUATORIAL_RADIUS / Math.sqrt(1 - ECCENTRICITY_SQUARED * sin * sin);
    return (2 * Math.PI * prime * Math.cos(lat * RADIANS)) / this.#scale;
  }

  /** Bounds of the visible part. */
  get bounds(): Bounds {
    const corners = [
      this.positionAt(0, 0),
      this.positionAt(this.width, 0),
      this.positionAt(0, this.height),
      this.positionAt(this.width, this.height),
    ];
    const lats = corners.map(({ lat }) => lat);
    const easts = corners.map(({ lon }) => wrapLongitude(lon - this.centre.lon));
    if (this.width * Math.abs(this.#cos) + this.height * Math.abs(this.#sin) >= this.#scale) {
      return [-180, Math.min(...lats), 180, Math.max(...lats)];
    }
    return [
      wrapLongitude(this.centre.lon + Math.min(...easts)),
      Math.min(...lats),
      wrapLongitude(this.centre.lon + Math.max(...easts)),
      Math.max(...lats),
    ];
  }

  /** Moved so that the content at a pixel is at (x + dx, y + dy). */
  panned(dx: number, dy: number): Camera {
    return this.with({ centre: this.positionAt(this.width / 2 - dx, this.height / 2 - dy) });
  }

  /** Zoomed, within the range, around the position at a pixel. */
  zoomedAround(zoom: number, x: number, y: number): Camera {
    const limited = Math.max(MIN_ZOOM, Math.min(MAX_ZOOM, zoom));
    const held = this.positionAt(x, y);
    const zoomed = this.with({ zoom: limited });
    const now = zoomed.pixelOf(held);
    return zoomed.panned(x - now.x, y - now.y);
  }

  /** Turned about the position at a pixel. */
  turnedAround(turn: number, x: number, y: number): Camera {
    const held = this.positionAt(x, y);
    const turned = this.with({ turn });
    const now = turned.pixelOf(held);
    return turned.panned(x - now.x, y - now.y);
  }

  /** Moved so that a position is at a pixel. */
  holding(position: Position, x: number, y: number): Camera {
    const centred = this.with({ centre: { lat: position.lat, lon: position.lon } });
    return x === this.width / 2 && y === this.height / 2
      ? centred
      : centred.panned(x - this.width / 2, y - this.height / 2);
  }

  /**
   * Moved so that bounds fill the picture except for a margin in pixels on each side. Bounds without a size are centred
   * and the zoom stays, limited to `maxZoom`.
   */
  framing(bounds: Bounds, margin = 40, maxZoom = 18): Camera {
    const [west, south, east, north] = bounds;
    const x1 = mercatorX(west);
    const x2 = mercatorX(east < west ? east + 360 : east);
    const y1 = mercatorY(north);
    const y2 = mercatorY(south);
    const centre = { lat: latitudeOf((y1 + y2) / 2), lon: wrapLongitude(longitudeOf((x1 + x2) / 2)) };
    // In a turned picture, the corners of the bounds are farther out.
    const wide = Math.abs(this.#cos) * (x2 - x1) + Math.abs(this.#sin) * (y2 - y1);
    const high = Math.abs(this.#sin) * (x2 - x1) + Math.abs(this.#cos) * (y2 - y1);
    const roomX = Math.max(1, this.width - 2 * margin);
    const roomY = Math.max(1, this.height - 2 * margin);
    const scale = Math.min(roomX / wide, roomY / high);
    const zoom = Number.isFinite(scale) ? Math.log2(scale / WORLD) : this.zoom;
    return this.with({ centre, zoom: Math.max(MIN_ZOOM, Math.min(maxZoom, zoom)) });
  }
}

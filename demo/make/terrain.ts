import { createNoise2D } from 'simplex-noise';
import { randomFrom } from 'aurelian-drift/testing';

/** Metres east and north of the island's centre. */
export type Point = readonly [x: number, y: number];

/** Size of a grid cell in metres, and of the grid in cells. */
export const CELL = 20;
export const COLUMNS = 560;
export const ROWS = 400;

export function cellOf([x, y]: Point): number {
  const column = Math.max(0, Math.min(COLUMNS - 1, Math.round(x / CELL + COLUMNS / 2 - 0.5)));
  const row = Math.max(0, Math.min(ROWS - 1, Math.round(ROWS / 2 - 0.5 - y / CELL)));
  return row * COLUMNS + column;
}

export function pointOf(cell: number): Point {
  return [
    ((cell % COLUMNS) + 0.5 - COLUMNS / 2) * CELL,
    (ROWS / 2 - 0.5 - Math.floor(cell / COLUMNS)) * CELL,
  ];
}

/** Hills and hollows, set by hand: centre in km, radii in km, height in m. */
const MASSES: readonly (readonly [x: number, y: number, rx: number, ry: number, height: number])[] = [
  [-0.6, 0.15, 3.3, 2.55, 46],
  [2.2, 0.9, 2.1, 1.7, 30],
  [-2.9, -0.6, 1.4, 1.9, 30],
  [-1.7, 1.15, 0.75, 0.55, 88],
  [-2.9, 0.45, 0.6, 0.5, 52],
  [0.6, 0.75, 0.8, 0.5, 48],
  [1.9, -0.95, 0.9, 0.6, 30],
  [3.7, 1.5, 0.8, 0.42, 12],
  [-3.75, -1.4, 0.55, 0.7, 14],
  [0.35, -2.55, 1.0, 0.95, -66],
  [-0.2, 2.95, 0.9, 0.75, -44],
  [3.3, -0.35, 0.7, 0.4, -26],
  [-4.1, 1.5, 0.9, 0.7, -34],
];

/** The lake: centre, radii, level. */
const LAKE = { x: -700, y: -350, rx: 420, ry: 210, level: 31 };

export interface Terrain {
  /** Metres above the sea; below 0 is sea. */
  readonly height: Float64Array;
  /** Above 0 within the lake. */
  readonly lake: Float64Array;
  readonly lakeLevel: number;
  /** Smooth noise for the land cover, one field for each name, about −1…1. */
  field(name: string, wavelength: number): Float64Array;
  heightAt(point: Point): number;
}

export function makeTerrain(seed: number): Terrain {
  const random = randomFrom(seed);
  const noise = createNoise2D(() => random.uniform());
  const warpX = createNoise2D(() => random.uniform());
  const warpY = createNoise2D(() => random.uniform());
  const rough = (x: number, y: number) => {
    let sum = 0;
    for (let octave = 0; octave < 5; octave++)
      sum += noise((x / 1500) * 2 ** octave, (y / 1500) * 2 ** octave) / 2 ** octave;
    return sum;
  };
  const height = new Float64Array(COLUMNS * ROWS);
  const lake = new Float64Array(COLUMNS * ROWS);
  for (let cell = 0; cell < height.length; cell++) {
    const [x, y] = pointOf(cell);
    const wx = (x + 330 * warpX(x / 1700, y / 1700) + 90 * warpX(x / 430, y / 430)) / 1000;
    const wy = (y + 330 * warpY(x / 1700, y / 1700) + 90 * warpY(x / 430, y / 430)) / 1000;
    let sum = -17;
    for (const [mx, my, rx, ry, peak] of MASSES)
      sum += peak * Math.exp(-(((wx - mx) / rx) ** 2) - ((wy - my) / ry) ** 2);
    // Rough at height, smooth at the coast.
    let value = sum + rough(x, y) * (3 + Math.max(0, Math.min(14, sum * 0.16)));
    const away =
      Math.hypot((x - LAKE.x) / LAKE.rx, (y - LAKE.y) / LAKE.ry) - 0.16 * noise(x / 300 + 50, y / 300);
    lake[cell] = 1 - away;
    const basin = Math.max(0, Math.min(1, (2.1 - away) / 1.1));
    value += (LAKE.level + Math.max(0, away - 1) * 14 - value) * basin * basin;
    height[cell] = value;
  }
  return {
    height,
    lake,
    lakeLevel: LAKE.level,
    field(name, wavelength) {
      const own = randomFrom(
        seed * 31 + Array.from(name).reduce((sum, letter) => sum * 7 + letter.charCodeAt(0), 0),
      );
      const slow = createNoise2D(() => own.uniform());
      return Float64Array.from(height, (_, cell) => {
        const [x, y] = pointOf(cell);
        return (
          slow(x / wavelength, y / wavelength) + 0.4 * slow((x / wavelength) * 2.7, (y / wavelength) * 2.7)
        );
      });
    },
    heightAt(point) {
      return height[cellOf(point)] as number;
    },
  };
}

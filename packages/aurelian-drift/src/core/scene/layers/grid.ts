import type { Camera } from '../camera.js';
import type { LayerKind } from '../layer-kind.js';
import { LOOK, blend } from '../look.js';
import type { Layer, Step } from '../scene.js';

/** Steps of a grid in degrees: each divides into minutes and seconds of arc as charts do. */
const DEGREE_STEPS = [
  30, 10, 5, 2, 1, 0.5, 1 / 6, 1 / 12, 1 / 30, 1 / 60, 1 / 120, 1 / 360, 1 / 720, 1 / 1800, 1 / 3600,
]; // prettier-ignore

/** The finest step whose lines are at least a number of pixels apart. */
export function gridStep(camera: Camera, pixels: number): number {
  const degreesPerPixel = 360 / (256 * 2 ** camera.zoom);
  const fitting = DEGREE_STEPS.filter((step) => step / degreesPerPixel >= pixels);
  return fitting.at(-1) ?? 30;
}

/** Multiples of a step within a range. */
export function multiples(from: number, to: number, step: number): number[] {
  const first = Math.ceil(from / step - 1e-9);
  const count = Math.min(200, Math.floor(to / step + 1e-9) - first + 1);
  return Array.from({ length: Math.max(0, count) }, (_, i) => (first + i) * step);
}

/** Thin lines of equal latitude and longitude: the background where there is no other. */
export function gridLayer(camera: Camera, pixels = 90): Layer {
  const step = gridStep(camera, pixels);
  const [west, south, east, north] = camera.bounds;
  const eastEnd = east < west ? east + 360 : east;
  const lines: number[][] = [];
  for (const lon of multiples(west, eastEnd, step)) lines.push(lineOf(camera, [south, lon], [north, lon]));
  for (const lat of multiples(south, north, step)) lines.push(lineOf(camera, [lat, west], [lat, eastEnd]));
  const stroke = { colour: blend(LOOK.parchment, LOOK.ink, 0.22), width: 0.7 };
  const steps: Step[] = [{ kind: 'shape', rings: lines, closed: false, stroke }];
  return { id: 'grid', steps };
}

function lineOf(camera: Camera, from: readonly [number, number], to: readonly [number, number]): number[] {
  const a = camera.pixelOf({ lat: from[0], lon: from[1] });
  const b = camera.pixelOf({ lat: to[0], lon: to[1] });
  return [a.x, a.y, b.x, b.y];
}

/** A grid as the background: it is drawn where nothing else covers the sheet. */
export interface GridLayer {
  readonly kind: 'grid';
}

export const GRID: LayerKind<GridLayer> = {
  kind: 'grid',
  options: {},
  background: true,
  prepare: () => ({}),
};

import { InputError } from '../../check/input-error.js';
import { formatValue } from '../../check/number.js';
import {
  anything,
  checkOptions,
  colour,
  list,
  numberFrom,
  oneOf,
  yesOrNo,
  isMissing,
} from '../../check/options.js';
import { ahead } from '../../geodesy/ahead.js';
import { positionOf, type Position } from '../../geodesy/position.js';
import type { Camera } from '../camera.js';
import type { LayerKind } from '../layer-kind.js';
import { LOOK } from '../look.js';
import { sharedRegion, wholeOf, widened, type Region } from '../region.js';
import type { Layer, Step } from '../scene.js';
import { boundsOfBoxes, pixelBox, pixelRings, worldBox, worldRing, type WorldRing } from '../world-shape.js';

/** How a shape of the app is drawn. */
export interface ShapePaint {
  /** `#rrggbb`. Default ink. */
  readonly colour?: string;
  /** Width of the outline in pixels. Default 1.6. */
  readonly width?: number;
  /** Whether the inside is hatched. Default false. */
  readonly hatched?: boolean;
}

/** A shape in metres or degrees on the ground. */
export type MapShape = ShapePaint &
  (
    | { readonly kind: 'circle'; readonly centre: Position; readonly radius: number }
    | { readonly kind: 'line'; readonly points: readonly Position[] }
    | { readonly kind: 'area'; readonly points: readonly Position[] }
  );

/** A shape prepared for drawing. */
export interface ShapeOnSheet {
  readonly shape: MapShape;
  readonly ring: WorldRing;
  readonly box: readonly [number, number, number, number];
}

/** Points of a circle: its edge is then within 0.1 % of its radius. */
const ROUND = 72;

export function shapesOnSheet(shapes: readonly MapShape[]): ShapeOnSheet[] {
  return shapes.map((shape) => {
    const ring = worldRing(
      shape.kind === 'circle'
        ? Array.from({ length: ROUND }, (_, i) => ahead(shape.centre, (i * 360) / ROUND, shape.radius))
        : shape.points,
    );
    return { shape, ring, box: worldBox([ring]) };
  });
}

/** Circles, lines and areas near a region. */
export function shapesLayer(
  shapes: readonly ShapeOnSheet[],
  camera: Camera,
  region: Region = wholeOf(camera),
): Layer {
  const steps = shapes.flatMap(({ shape, ring, box }): Step[] => {
    if (sharedRegion(widened(pixelBox(box, camera), 8), region) === undefined) return [];
    const { colour = LOOK.ink, width = 1.6, hatched = false } = shape;
    const closed = shape.kind !== 'line';
    return [
      {
        kind: 'shape',
        rings: pixelRings([ring], camera),
        closed,
        ...(hatched && closed && { fill: { colour, spacing: 6, width: 0.6, angle: 30 } }),
        stroke: { colour, width },
      },
    ];
  });
  return { id: 'shapes', steps };
}

/** Circles, lines and areas of the app. */
export interface ShapesLayer {
  readonly kind: 'shapes';
  readonly shapes: readonly MapShape[];
}

const PAINT = { kind: anything, colour, width: numberFrom(0, 100, 'pixels'), hatched: yesOrNo };

/** @throws {InputError} for a misspelt or wrong option of a shape, or an impossible position. */
function checkShape(shape: MapShape, owner: string): void {
  if (isMissing(shape) || typeof shape !== 'object')
    throw new InputError('bad-value', `${owner} must be an object with a kind, got ${formatValue(shape)}`);
  const problem = oneOf('circle', 'line', 'area')(shape.kind);
  if (problem !== undefined) throw new InputError('bad-value', `${owner}: kind ${problem}`);
  if (shape.kind === 'circle') {
    const rules = { ...PAINT, centre: anything, radius: numberFrom(0, 2e7, 'metres') };
    checkOptions<Required<Extract<MapShape, { kind: 'circle' }>>>(owner, shape as never, rules);
    if (isMissing(shape.radius)) throw new InputError('bad-value', `${owner}: radius is missing`);
    positionOf(shape.centre);
  } else {
    checkOptions<Required<Exclude<MapShape, { kind: 'circle' }>>>(owner, shape as never, {
      ...PAINT,
      points: list,
    });
    if (isMissing(shape.points)) throw new InputError('bad-value', `${owner}: points is missing`);
    shape.points.forEach(positionOf);
  }
}

export const SHAPES: LayerKind<ShapesLayer> = {
  kind: 'shapes',
  options: { shapes: list },
  prepare({ shapes }) {
    shapes.forEach((shape, i) => checkShape(shape, `shape ${i + 1}`));
    const ready = shapesOnSheet(shapes);
    return {
      under: (camera, region) => [shapesLayer(ready, camera, region)],
      describe: () => [{ item: 'shapes', count: shapes.length }],
      bounds: () => boundsOfBoxes(ready.map(({ box }) => box)),
    };
  },
};

import { ahead } from '../../geodesy/ahead.js';
import type { Position } from '../../geodesy/position.js';
import type { Camera } from '../camera.js';
import type { LayerKind } from '../layer-kind.js';
import { LOOK } from '../look.js';
import { sharedRegion, wholeOf, widened, type Region } from '../region.js';
import type { Layer, Step } from '../scene.js';
import { pixelBox, pixelRings, worldBox, worldRing, type WorldRing } from '../world-shape.js';

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

export const SHAPES: LayerKind<ShapesLayer> = {
  kind: 'shapes',
  prepare({ shapes }) {
    const ready = shapesOnSheet(shapes);
    return {
      under: (camera, region) => [shapesLayer(ready, camera, region)],
      describe: () => [{ one: 'shape', many: 'shapes', count: shapes.length }],
    };
  },
};

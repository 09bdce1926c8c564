import { formatValue } from '../../check/number.js';
import { optional } from '../../check/options.js';
import { boundsOf } from '../../geodesy/bounds.js';
import type { Line } from '../../trail/line.js';
import type { Camera } from '../camera.js';
import type { LayerKind } from '../layer-kind.js';
import { LOOK } from '../look.js';
import type { Layer } from '../scene.js';
import { pixelRings, worldRing } from '../world-shape.js';

/** A planned line: a thin dashed stroke; what is done of it is a whole one. */
function lineLayer({ line, done }: LineLayer, camera: Camera): Layer {
  const rings = pixelRings(line.parts.map(worldRing), camera);
  const doneRings = pixelRings((done?.parts ?? []).map(worldRing), camera);
  return {
    id: 'line',
    steps: [
      { kind: 'shape', rings, closed: false, stroke: { colour: LOOK.parchment, width: 4 } },
      {
        kind: 'shape',
        rings,
        closed: false,
        stroke: { colour: LOOK.goldText, width: 1.6, dash: [9, 4, 2, 4] },
      },
      { kind: 'shape', rings: doneRings, closed: false, stroke: { colour: LOOK.parchment, width: 7 } },
      { kind: 'shape', rings: doneRings, closed: false, stroke: { colour: LOOK.goldText, width: 3.2 } },
    ],
  };
}

/** A line without times, planned or recorded. */
export interface LineLayer {
  readonly kind: 'line';
  readonly line: Line;
  /** The part of it that was travelled, drawn as a whole stroke. Default: none. */
  readonly done?: Line | undefined;
}

function lineProblem(value: unknown): string | undefined {
  const parts = (value as Partial<Line> | null | undefined)?.parts;
  return Array.isArray(parts) && parts.every(Array.isArray)
    ? undefined
    : `must be a line with its parts, lists of positions, got ${formatValue(value)}`;
}

export const LINE: LayerKind<LineLayer> = {
  kind: 'line',
  options: { line: lineProblem, done: optional(lineProblem) },
  prepare: (layer) => ({
    under: (camera) => [lineLayer(layer, camera)],
    describe: () => [{ item: 'lines', count: 1 }],
    bounds: () => boundsOf(layer.line.parts.flat()),
  }),
};

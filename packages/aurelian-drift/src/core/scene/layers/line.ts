import type { Line } from '../../trail/line.js';
import type { Camera } from '../camera.js';
import type { LayerKind } from '../layer-kind.js';
import { LOOK } from '../look.js';
import type { Layer } from '../scene.js';
import { pixelRings, worldRing } from '../world-shape.js';

/** A planned line: a thin dashed stroke. */
function lineLayer(line: Line, camera: Camera): Layer {
  const rings = pixelRings(line.parts.map(worldRing), camera);
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
    ],
  };
}

/** A line without times, planned or recorded. */
export interface LineLayer {
  readonly kind: 'line';
  readonly line: Line;
}

export const LINE: LayerKind<LineLayer> = {
  kind: 'line',
  prepare: ({ line }) => ({
    under: (camera) => [lineLayer(line, camera)],
    describe: () => [{ one: 'line', many: 'lines', count: 1 }],
  }),
};

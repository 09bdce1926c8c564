import type { Line } from '../../trail/line.js';
import type { Camera } from '../camera.js';
import { LOOK } from '../look.js';
import type { Layer } from '../scene.js';
import { pixelRings, worldRing } from '../world-shape.js';

/** A planned line: a thin dashed stroke. */
export function lineLayer(line: Line, camera: Camera): Layer {
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

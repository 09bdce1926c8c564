import type { Camera } from './camera.js';
import type { Layer } from './scene.js';

/** An empty sheet of one colour. */
export function sheetOf(id: string, fill: string, { width, height }: Camera): Layer {
  const rings = [[0, 0, width, 0, width, height, 0, height]];
  return { id, steps: [{ kind: 'shape', rings, closed: true, fill }] };
}

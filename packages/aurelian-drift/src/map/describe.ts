import type { Fix } from '../core/fix/fix.js';
import { accuracyText, lengthText, positionText } from '../core/fix/words.js';
import type { Camera } from '../core/scene/camera.js';
import type { StackedLayer } from '../core/scene/layer-kind.js';
import { wordsOf } from '../core/scene/words.js';

/** Describes the map in words, for people who do not see it. */
export function describeMap(
  label: string,
  camera: Camera | undefined,
  fix: Fix | undefined,
  layers: readonly Pick<StackedLayer, 'ready'>[],
): string {
  return [
    label,
    fix === undefined
      ? 'own place unknown'
      : `own place ${positionText(fix)} ${accuracyText(fix.accuracy)}`.trim(),
    ...(camera === undefined
      ? []
      : [
          `${lengthText(camera.metresPerPixel * camera.width)} across, centre ${positionText(camera.centre)}`,
          ...wordsOf(layers, camera),
        ]),
  ].join('; ');
}

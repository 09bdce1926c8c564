import type { Fix } from '../core/fix/fix.js';
import type { Camera } from '../core/scene/camera.js';
import type { StackedLayer } from '../core/scene/layer-kind.js';
import type { MapWords } from '../core/scene/map-words.js';
import { wordsOf } from '../core/scene/words.js';
import { filled } from '../core/texts/part.js';

/** Describes the map in words, for people who do not see it. */
export function describeMap(
  label: string,
  camera: Camera | undefined,
  fix: Fix | undefined,
  layers: readonly Pick<StackedLayer, 'ready'>[],
  words: MapWords,
): string {
  const view =
    camera &&
    filled(words.texts.view, {
      length: words.format.length(camera.metresPerPixel * camera.width),
      place: words.format.position(camera.centre),
    });
  return [
    label,
    words.ownPlace(fix),
    ...(camera === undefined || view === undefined ? [] : [view, ...wordsOf(layers, camera, words)]),
  ].join('; ');
}

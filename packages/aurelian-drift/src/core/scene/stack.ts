import type { Camera } from './camera.js';
import { sheetOf } from './empty-sheet.js';
import type { StackedLayer } from './layer-kind.js';
import { gridLayer } from './layers/grid.js';
import type { LabelRoom } from './layers/label-room.js';
import { LOOK } from './look.js';
import { PLAIN_WORDS, type MapWords } from './map-words.js';
import type { Region } from './region.js';
import type { Layer } from './scene.js';

/**
 * The part of a stack of layers, bottom to top, that stays while a map is moved: first the cover of the sheet, or paper
 * with a grid.
 */
export function underOf(stack: readonly StackedLayer[], camera: Camera, region: Region): Layer[] {
  const cover = stack.find(({ kind }) => kind.covers === true);
  const others = stack.filter(({ kind }) => kind.covers !== true);
  return [
    ...(cover?.ready.under?.(camera, region) ?? [
      sheetOf('paper', LOOK.parchment, camera),
      gridLayer(camera),
    ]),
    ...others.flatMap(({ ready }) => ready.under?.(camera, region) ?? []),
  ];
}

/** The part of a stack of layers that is drawn in each frame. Higher layers get their room first. */
export function overOf(
  stack: readonly StackedLayer[],
  camera: Camera,
  room: LabelRoom,
  words: MapWords = PLAIN_WORDS,
): Layer[] {
  return [
    ...stack.flatMap(({ ready }) => ready.fresh?.(camera) ?? []),
    ...stack.toReversed().flatMap(({ ready }) => ready.over?.(camera, room, words) ?? []),
  ];
}

import type { Fix } from '../fix/fix.js';
import { accuracyText, positionText } from '../fix/words.js';
import type { Camera } from './camera.js';
import { kindOf, type AnyLayerKind, type StackedLayer } from './layer-kind.js';
import { SHEET_KINDS, type SheetLayer } from './layer-kinds.js';
import { kiteLayer, type KitePaint } from './layers/kite.js';
import { LabelRoom } from './layers/label-room.js';
import { marginLayer, withinMargin, type MarginPaint } from './layers/margin.js';
import { wholeOf } from './region.js';
import type { Scene } from './scene.js';
import { overOf, underOf } from './stack.js';
import { wordsOf } from './words.js';

/** Content of a still sheet. */
export interface SheetContent {
  /** Layers in any order: each kind has its place, as on a map. Without a ground there is a plain grid. */
  readonly layers?: readonly SheetLayer[];
  /** Own place of the user. */
  readonly fix?: Fix | undefined;
  readonly kitePaint?: KitePaint;
  readonly margin?: MarginPaint;
}

const KINDS: readonly AnyLayerKind[] = SHEET_KINDS;

/** A whole map sheet with its margin. @throws {InputError} for a layer of an unknown kind, or that cannot be drawn. */
export function sheetScene(camera: Camera, content: SheetContent): Scene {
  const { layers = [], fix, kitePaint, margin } = content;
  const stack = layers
    .map((layer): StackedLayer => {
      const kind = kindOf(KINDS, layer, 'a layer');
      return { kind, ready: kind.prepare(layer, undefined, () => {}) };
    })
    .sort((a, b) => KINDS.indexOf(a.kind) - KINDS.indexOf(b.kind));
  const room = new LabelRoom(withinMargin(camera, margin));
  if (fix !== undefined) {
    const { x, y } = camera.pixelOf(fix);
    room.take(x - 20, y - 20, 40, 40);
  }
  const credit = stack.flatMap(({ ready }) => ready.credit ?? []).join(' · ');
  return {
    width: camera.width,
    height: camera.height,
    title: titleOf(stack, fix, margin),
    layers: [
      ...underOf(stack, camera, wholeOf(camera)),
      ...overOf(stack, camera, room),
      ...(fix === undefined ? [] : [kiteLayer(fix, camera, kitePaint)]),
      marginLayer(camera, { ...(credit !== '' && { credit }), ...margin }),
    ],
  };
}

/** Description of the sheet in words. */
function titleOf(
  stack: readonly StackedLayer[],
  fix: Fix | undefined,
  margin: MarginPaint | undefined,
): string {
  const own = fix && `own position ${positionText(fix)} ${accuracyText(fix.accuracy)}`.trim();
  const parts = [...wordsOf(stack), ...(own === undefined ? [] : [own])];
  return `${margin?.title ?? 'Map'}${parts.length > 0 ? `: ${parts.join(', ')}` : ''}`;
}

import type { Fence } from '../fence/fence.js';
import type { Fix } from '../fix/fix.js';
import { accuracyText, positionText } from '../fix/words.js';
import type { Trail } from '../trail/trail.js';
import type { Camera } from './camera.js';
import { fencesLayer, type FencesPaint } from './layers/fences.js';
import { gridLayer } from './layers/grid.js';
import { groundLabels, groundLayer, type Ground } from './layers/ground.js';
import { kiteLayer, type KitePaint } from './layers/kite.js';
import { LabelRoom } from './layers/label-room.js';
import { lineLayer } from './layers/line.js';
import { marginLayer, withinMargin, type MarginPaint } from './layers/margin.js';
import { trailLayer, type TrailPaint } from './layers/trail.js';
import { LOOK } from './look.js';
import type { Layer, Scene } from './scene.js';
import type { Line } from '../trail/line.js';

/** What lies on a map sheet. */
export interface SheetContent {
  /** Without one there is a plain grid. */
  readonly ground?: Ground;
  readonly lines?: readonly Line[];
  readonly fences?: readonly Fence[];
  readonly fencesPaint?: FencesPaint;
  readonly trails?: readonly Trail[];
  readonly trailPaint?: TrailPaint;
  /** Where the user is. */
  readonly fix?: Fix | undefined;
  readonly kitePaint?: KitePaint;
  readonly margin?: MarginPaint;
}

/** The paper or water that everything lies on, and the ground or grid: what changes only with the view. */
export function backgroundLayers(camera: Camera, ground: Ground | undefined): Layer[] {
  const { width, height } = camera;
  const sheet = { kind: 'shape', rings: [[0, 0, width, 0, width, height, 0, height]], closed: true } as const;
  if (ground === undefined) {
    return [{ id: 'paper', steps: [{ ...sheet, fill: LOOK.parchment }] }, gridLayer(camera)];
  }
  return [{ id: 'sea', steps: [{ ...sheet, fill: LOOK.water }] }, groundLayer(ground, camera)];
}

/** What lies on the ground, bottom to top. */
export function contentLayers(camera: Camera, content: SheetContent): Layer[] {
  const { ground, lines = [], fences, trails = [], fix } = content;
  const room = new LabelRoom(withinMargin(camera, content.margin));
  if (fix !== undefined) {
    const { x, y } = camera.pixelOf(fix);
    room.take(x - 20, y - 20, 40, 40);
  }
  const fenceLayer = fences === undefined ? [] : [fencesLayer(fences, camera, content.fencesPaint, room)];
  const names = ground === undefined ? [] : [groundLabels(ground, camera, room)];
  return [
    ...lines.map((line) => lineLayer(line, camera)),
    ...trails.map((trail) => trailLayer(trail, camera, content.trailPaint)),
    ...fenceLayer,
    ...names,
    ...(fix === undefined ? [] : [kiteLayer(fix, camera, content.kitePaint)]),
  ];
}

/** A whole map sheet with its margin. */
export function sheetScene(camera: Camera, content: SheetContent): Scene {
  return {
    width: camera.width,
    height: camera.height,
    title: sheetTitle(content),
    layers: [
      ...backgroundLayers(camera, content.ground),
      ...contentLayers(camera, content),
      marginLayer(camera, content.margin),
    ],
  };
}

/** What the sheet shows, in words. */
function sheetTitle({ margin, trails = [], fences = [], fix }: SheetContent): string {
  const counted = (count: number, one: string, many: string) =>
    count === 0 ? [] : [`${count} ${count === 1 ? one : many}`];
  const parts = [
    ...counted(trails.length, 'trail', 'trails'),
    ...counted(fences.length, 'fence', 'fences'),
    ...(fix === undefined ? [] : [`own position ${positionText(fix)} ${accuracyText(fix.accuracy)}`.trim()]),
  ];
  return `${margin?.title ?? 'Map'}${parts.length > 0 ? `: ${parts.join(', ')}` : ''}`;
}

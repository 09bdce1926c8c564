import type { Fence } from '../fence/fence.js';
import type { Fix } from '../fix/fix.js';
import { accuracyText, positionText } from '../fix/words.js';
import type { Trail } from '../trail/trail.js';
import type { Camera } from './camera.js';
import { fenceShapes, fenceTabs, fencesLayer, type FencesPaint } from './layers/fences.js';
import { gridLayer } from './layers/grid.js';
import { groundLabels, groundLayer, type Ground } from './layers/ground.js';
import { kiteLayer, type KitePaint } from './layers/kite.js';
import { LabelRoom } from './layers/label-room.js';
import { lineLayer } from './layers/line.js';
import { marginLayer, withinMargin, type MarginPaint } from './layers/margin.js';
import { trailLayer, type TrailPaint } from './layers/trail.js';
import { membersLayer, type Member } from './layers/members.js';
import { pinLabels, pinsLayer, pinsOnSheet, type Pin } from './layers/pins.js';
import { shapesLayer, shapesOnSheet, type MapShape } from './layers/shapes.js';
import type { GroundPaint } from './layers/ground-paint.js';
import { LOOK } from './look.js';
import { wholeOf, type Region } from './region.js';
import type { Layer, Scene } from './scene.js';
import type { Line } from '../trail/line.js';

/** What lies on a still sheet. */
export interface SheetContent {
  /** Without one there is a plain grid. */
  readonly ground?: Ground;
  readonly lines?: readonly Line[];
  readonly fences?: readonly Fence[];
  readonly fencesPaint?: FencesPaint;
  readonly trails?: readonly Trail[];
  readonly trailPaint?: TrailPaint;
  readonly shapes?: readonly MapShape[];
  readonly pins?: readonly Pin[];
  readonly members?: readonly Member[];
  /** Where the user is. */
  readonly fix?: Fix | undefined;
  readonly kitePaint?: KitePaint;
  readonly margin?: MarginPaint;
}

/** The paper or water that everything lies on, and the ground or grid. */
export function backgroundLayers(
  camera: Camera,
  ground: Ground | undefined,
  paint: readonly GroundPaint[] | undefined,
  region: Region = wholeOf(camera),
): Layer[] {
  const { width, height } = camera;
  const sheet = { kind: 'shape', rings: [[0, 0, width, 0, width, height, 0, height]], closed: true } as const;
  if (ground === undefined) {
    return [{ id: 'paper', steps: [{ ...sheet, fill: LOOK.parchment }] }, gridLayer(camera)];
  }
  return [{ id: 'sea', steps: [{ ...sheet, fill: LOOK.water }] }, groundLayer(ground, camera, paint, region)];
}

/** What lies on the ground, bottom to top. */
function contentLayers(camera: Camera, content: SheetContent): Layer[] {
  const { ground, lines = [], fences, trails = [], shapes = [], pins = [], members = [], fix } = content;
  const room = new LabelRoom(withinMargin(camera, content.margin));
  if (fix !== undefined) {
    const { x, y } = camera.pixelOf(fix);
    room.take(x - 20, y - 20, 40, 40);
  }
  const outlines = fenceShapes(fences ?? []);
  const paint = content.fencesPaint ?? {};
  const placed = pinsOnSheet(pins);
  return [
    ...lines.map((line) => lineLayer(line, camera)),
    ...trails.map((trail) => trailLayer(trail, camera, content.trailPaint)),
    ...(shapes.length === 0 ? [] : [shapesLayer(shapesOnSheet(shapes), camera)]),
    ...(fences === undefined ? [] : [fencesLayer(outlines, camera, paint)]),
    ...(pins.length === 0 ? [] : [pinsLayer(placed, camera), pinLabels(placed, camera, room)]),
    ...(members.length === 0 ? [] : [membersLayer(members, camera, room)]),
    ...(fences === undefined ? [] : [fenceTabs(outlines, camera, paint, room)]),
    ...(ground === undefined ? [] : [groundLabels(ground, camera, room)]),
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
      ...backgroundLayers(camera, content.ground, undefined),
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

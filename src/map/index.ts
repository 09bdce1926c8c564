/* The map: interactive on a canvas, still as SVG. */

export { Camera, LEAST_ZOOM, MOST_ZOOM, type CameraView, type Pixel } from '../core/scene/camera.js';
export { fencesLayer, type FenceTone, type FencesPaint } from '../core/scene/layers/fences.js';
export { groundFrom, type Ground } from '../core/scene/layers/ground.js';
export { kiteLayer, type KitePaint } from '../core/scene/layers/kite.js';
export { trailLayer, type TrailPaint } from '../core/scene/layers/trail.js';
export { LOOK } from '../core/scene/look.js';
export type { Layer, Scene, Step } from '../core/scene/scene.js';
export { sheetScene, type SheetContent } from '../core/scene/sheet.js';
export { paintSvg } from '../core/scene/svg.js';
export { MapSheet, type MapSheetOptions, type MapView } from './map-sheet.js';
export { stillPicture, type StillPictureOptions } from './still-picture.js';

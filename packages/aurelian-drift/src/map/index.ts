/* The map: interactive on a canvas, still as SVG. */

export { Camera, MIN_ZOOM, MAX_ZOOM, type CameraView, type Pixel } from '../core/scene/camera.js';
export {
  fenceShapes,
  fencesLayer,
  type FenceTone,
  type FencesPaint,
  type FenceShapeOnSheet,
} from '../core/scene/layers/fences.js';
export { groundFrom, type Ground, type GroundLabel, type GroundShape } from '../core/scene/layers/ground.js';
export { kiteLayer, type KitePaint } from '../core/scene/layers/kite.js';
export { trailLayer, type TrailPaint, type TrailPath, type Shading } from '../core/scene/layers/trail.js';
export { LOOK } from '../core/scene/look.js';
export type {
  Layer,
  Scene,
  Step,
  ShapeStep,
  DiscStep,
  TextStep,
  ClipStep,
  ImageStep,
  Fill,
  Hatch,
  Stroke,
} from '../core/scene/scene.js';
export { sheetScene, type SheetContent } from '../core/scene/sheet.js';
export type { SheetLayer } from '../core/scene/layer-kinds.js';
export type { FencesLayer } from '../core/scene/layers/fences.js';
export type { GridLayer } from '../core/scene/layers/grid.js';
export type { GroundLayer } from '../core/scene/layers/ground.js';
export { planLayer } from '../core/scene/layers/plan.js';
export type { LineLayer } from '../core/scene/layers/line.js';
export type { MembersLayer } from '../core/scene/layers/members.js';
export type { PinsLayer } from '../core/scene/layers/pins.js';
export type { ShapesLayer } from '../core/scene/layers/shapes.js';
export type { TrailLayer } from '../core/scene/layers/trail.js';
export type { TilesLayer } from './tiles-layer.js';
export { writeSvg } from '../core/scene/svg.js';
export type { UnitSystem } from '../core/fix/units.js';
export type { MapMember } from '../core/scene/layers/members.js';
export type { Pin, PinShape } from '../core/scene/layers/pin.js';
export type { MapShape, ShapePaint } from '../core/scene/layers/shapes.js';
export { Steering, type SteeringMode, type SteeringOptions } from '../core/scene/steering.js';
export { themed, type Theme } from '../core/scene/theme.js';
export { crumbsOf, type CrumbSpacing } from '../core/trail/crumbs.js';
export type { MapLayer, MapLayers } from './layer-stack.js';
export type { AnchorPlace, AnchorSide } from './anchors.js';
export type { GestureSharing } from './gesture-sink.js';
export type { ThemeChoice } from './theme-choice.js';
export type { MapEvent, MapView } from './map-events.js';
export type { MapSheetOptions } from './map-options.js';
export { MapSheet } from './map-sheet.js';
export type { MapNote, MapNoteKind } from './notes.js';
export type { MapPins } from './pin-board.js';
export type { PinOptions } from '../core/scene/layers/pin-from.js';
export type { RasterWork } from './raster.js';
export { MapWords, type MapWordsOptions } from '../core/scene/map-words.js';
export type { MeasureText } from '../core/scene/text-width.js';
export { stillPicture, tiledPicture, type StillPicture, type StillPictureOptions } from './still-picture.js';
export { stillTiles, type TileReader } from './still-tiles.js';
export type { TilePicture, TilePicturesLayer } from '../core/scene/layers/tile-pictures.js';
export { keepTiles, measureTiles } from './keep-tiles.js';
export type { KeepTilesOptions, TileMeasure, TileProgress, TilesOfArea } from './keep-tiles.js';
export { keptArchive } from './kept-archive.js';
export { keptAreas, KEPT_TILES, removeKeptArea, type KeptArea } from './kept-tiles.js';
export type { TileOptions } from './tile-options.js';
export type { ViewStorage } from './view-memory.js';
export type { GroundPaint } from '../core/scene/layers/ground-paint.js';
export type { MarginPaint } from '../core/scene/layers/margin.js';
export type { Region } from '../core/scene/region.js';
export type { WorldRing } from '../core/scene/world-shape.js';

import {
  featuresOf,
  coordinateOf,
  coordinatesOf,
  listOf,
  partsOf,
  type Feature,
} from '../../formats/geojson/geojson.js';
import { list, optional, someObject, someText } from '../../check/options.js';
import type { Bounds } from '../../geodesy/bounds.js';
import { BoundsGatherer } from '../../geodesy/bounds.js';
import type { Camera } from '../camera.js';
import { LOOK } from '../look.js';
import type { LayerKind } from '../layer-kind.js';
import { sheetOf } from '../empty-sheet.js';
import { clippedOutline } from '../clip.js';
import { latitudeOf, longitudeOf } from '../mercator.js';
import type { Layer, ShapeStep, Step } from '../scene.js';
import { isInPicture, sharedRegion, wholeOf, widened, type Region } from '../region.js';
import { pixelBox, pixelRings, worldBox, worldRing, type WorldRing } from '../world-shape.js';
import { GROUND_PAINT, type GroundPaint } from './ground-paint.js';
import { LabelRoom } from './label-room.js';
import { LABEL_PAINT } from './label-paint.js';

/** A line or an area of the ground, in world coordinates. */
export interface GroundShape {
  readonly rings: readonly WorldRing[];
  readonly box: readonly [number, number, number, number];
  readonly closed: boolean;
}

/** A name on the ground, with its position in world coordinates: 0 to 1 from west to east and from north to south. */
export interface GroundLabel {
  readonly kind: string;
  readonly name: string;
  readonly at: readonly [x: number, y: number];
}

/** A background prepared for drawing: shapes by kind on the Mercator square, and names. */
export interface Ground {
  readonly shapes: ReadonlyMap<string, readonly GroundShape[]>;
  readonly labels: readonly GroundLabel[];
  readonly bounds: Bounds | undefined;
}

/**
 * Makes a background from a parsed GeoJSON document. The `kind` of a feature determines its paint (see `GROUND_PAINT`);
 * without a kind, an area is land and a line is a path. Points with a name are labels.
 *
 * @throws {InputError} with the path of an impossible position.
 */
export function groundFrom(document: unknown): Ground {
  const shapes = new Map<string, GroundShape[]>();
  const labels: GroundLabel[] = [];
  const gatherer = new BoundsGatherer();
  for (const feature of featuresOf(document)) {
    const { kind: given, name } = feature.properties;
    const path = feature.coordinatesPath;
    if (feature.geometry?.type === 'Point') {
      const at = worldRing([coordinateOf(feature.geometry.coordinates, path)]);
      const kind = typeof given === 'string' ? given : 'place';
      if (typeof name === 'string')
        labels.push({ kind, name: labelText(feature, name), at: [at[0] ?? 0, at[1] ?? 0] });
      continue;
    }
    const rings = ringsOf(feature, path);
    if (rings.length === 0) continue;
    const closed = feature.geometry?.type === 'Polygon' || feature.geometry?.type === 'MultiPolygon';
    const kind = typeof given === 'string' ? given : closed ? 'land' : 'path';
    const box = worldBox(rings);
    gatherer.add(latitudeOf(box[1]), longitudeOf(box[0]));
    gatherer.add(latitudeOf(box[3]), longitudeOf(box[2]));
    const list = shapes.get(kind);
    if (list === undefined) shapes.set(kind, [{ rings, box, closed }]);
    else list.push({ rings, box, closed });
  }
  return { shapes, labels, bounds: gatherer.bounds };
}

/**
 * A background as it is given: what `groundFrom` made, or a parsed GeoJSON document.
 *
 * @throws {InputError} for anything else.
 */
export function groundOf(given: Ground | object): Ground {
  return isGround(given) ? given : groundFrom(given);
}

function isGround(given: Ground | object): given is Ground {
  return 'shapes' in given && given.shapes instanceof Map;
}

function labelText(feature: Feature, name: string): string {
  const height = feature.properties['height'];
  return typeof height === 'number' ? `${name} ${height}` : name;
}

function ringsOf({ geometry }: Feature, path: readonly (string | number)[]): WorldRing[] {
  switch (geometry?.type) {
    case 'LineString':
      return [worldRing(coordinatesOf(geometry.coordinates, path))];
    case 'MultiLineString':
    case 'Polygon':
      return partsOf(geometry.coordinates, path).map(worldRing);
    case 'MultiPolygon':
      return listOf(geometry.coordinates, path).flatMap((part, i) =>
        partsOf(part, [...path, i]).map(worldRing),
      );
    default:
      return [];
  }
}

/** Points of an outline above which it is clipped to the drawn part. */
const LONG = 60;

/** Drawing steps of the background near a region: shapes in the order of the paint, `GROUND_PAINT` by default. */
export function groundLayer(
  ground: Ground,
  camera: Camera,
  paints: readonly GroundPaint[] = GROUND_PAINT,
  region: Region = wholeOf(camera),
): Layer {
  const steps: Step[] = [];
  const near = widened(region, 40); // extent of strokes and engraved shores
  for (const paint of paints) {
    if (camera.zoom < (paint.from ?? 0)) continue;
    const seen = (ground.shapes.get(paint.kind) ?? []).filter(
      ({ box }) => sharedRegion(widened(pixelBox(box, camera), 1), near) !== undefined,
    );
    if (seen.length === 0) continue;
    const closed = seen[0]?.closed === true;
    const rings = seen
      .flatMap((shape) => pixelRings(shape.rings, camera))
      .map((ring) => (closed && ring.length > LONG ? clippedOutline(ring, near) : ring))
      .filter((ring) => ring.length > 0);
    steps.push(...paintSteps(paint, rings, closed, camera.zoom));
  }
  return { id: 'ground', steps };
}

/** Names on the background, where there is room. */
function groundLabels(ground: Ground, camera: Camera, room = new LabelRoom()): Layer {
  const steps: Step[] = [];
  for (const [kind, paint] of Object.entries(LABEL_PAINT)) {
    if (camera.zoom < paint.from) continue;
    for (const label of ground.labels) {
      if (label.kind !== kind) continue;
      const at = camera.pixelOfWorld(label.at[0], label.at[1]);
      if (isInPicture(at, camera)) steps.push(...room.place(label.name, at.x, at.y, paint));
    }
  }
  return { id: 'names', steps };
}

function paintSteps(paint: GroundPaint, rings: number[][], closed: boolean, zoom: number): ShapeStep[] {
  return paint.coats.map(({ fill, stroke }) => {
    const width =
      stroke === undefined ? 0 : stroke.width * (stroke.fixed === true ? 1 : 2 ** ((zoom - 15) * 0.55));
    return {
      kind: 'shape',
      rings,
      closed,
      ...(fill !== undefined && { fill }),
      ...(stroke !== undefined && {
        stroke: {
          colour: stroke.colour,
          width: Math.max(stroke.min ?? 0.5, width),
          ...(stroke.dash !== undefined && { dash: stroke.dash }),
        },
      }),
    };
  });
}

/** Land and water with their names. */
export interface GroundLayer {
  readonly kind: 'ground';
  /** A parsed GeoJSON document, or what `groundFrom` made of it. */
  readonly ground: Ground | object;
  /** Source of its data; always shown. */
  readonly credit?: string;
  /** Order and paint of its shapes. */
  readonly paint?: readonly GroundPaint[];
}

export const GROUND: LayerKind<GroundLayer> = {
  kind: 'ground',
  options: { ground: someObject, credit: optional(someText), paint: optional(list) },
  background: true,
  covers: true,
  prepare({ ground: given, credit, paint }) {
    const ground = groundOf(given);
    return {
      credit,
      bounds: () => ground.bounds,
      under: (camera, region) => [
        sheetOf('sea', LOOK.water, camera),
        groundLayer(ground, camera, paint, region),
      ],
      over: (camera, room) => [groundLabels(ground, camera, room)],
    };
  },
};

import { callable, checkOptions, list, numberFrom, optional, someObject } from '../../check/options.js';
import type { Fence } from '../../fence/fence.js';
import { outlinesOf } from '../../fence/outlines.js';
import type { Camera } from '../camera.js';
import { layerKind, type ReadyLayer } from '../layer-kind.js';
import { LOOK } from '../look.js';
import { regionAround, sharedRegion, wholeOf, widened, worldBoxOf, type Region } from '../region.js';
import type { Layer, Step } from '../scene.js';
import { cutText } from '../text-lines.js';
import { boundsOfBoxes, pixelBox, pixelRings, worldBox, worldRing, type WorldRing } from '../world-shape.js';
import type { LabelRoom } from './label-room.js';

/** Purpose of a fence: an ordinary area, or one that must not be entered. */
export type FenceTone = 'ordinary' | 'closed';

/** How fences are drawn. */
export interface FencesPaint {
  /** Ids of fences with somebody inside: their stitch tightens and fills. */
  readonly inside?: ReadonlySet<string>;
  /** Ids of fences with an uncertain side: their stitch tightens, and does not fill. */
  readonly uncertain?: ReadonlySet<string>;
  /** Ids of fences that are not watched now: a row of dots. */
  readonly off?: ReadonlySet<string>;
  readonly toneOf?: (fence: Fence) => FenceTone;
  /** Smallest zoom with name tabs. Default 13.3. */
  readonly tabsFrom?: number;
}

/** A fence prepared for drawing: its outlines on the Mercator square, computed once. */
export interface FenceShapeOnSheet {
  readonly fence: Fence;
  readonly rings: readonly WorldRing[];
  readonly box: readonly [number, number, number, number];
}

/** Number of fences in one picture above which they are drawn without stitches. */
const CROWD = 250;
/** Maximum number of fences in one picture that all have name tabs. */
const MAX_TABS = 120;
/** Pixels between the points of an outline when there are many. */
const CROWD_FINEST = 3;
/** Size in pixels below which a fence is a dot, and below which it is not drawn. */
const DOT = 5;
const SPECK = 1.2;

/** Projects the outlines of fences to world coordinates, for `fencesLayer`. */
export function fenceShapes(fences: readonly Fence[]): FenceShapeOnSheet[] {
  return fences.map((fence) => {
    const rings = outlinesOf(fence).map(worldRing);
    return { fence, rings, box: worldBox(rings) };
  });
}

/** Place of a fence in a picture. */
function fenceRegion({ box }: FenceShapeOnSheet, camera: Camera): Region {
  return widened(pixelBox(box, camera), 6);
}

/** Fences that may be in a region: first by their boxes on the Mercator square, because there may be thousands. */
function fencesNear(
  shapes: readonly FenceShapeOnSheet[],
  camera: Camera,
  region: Region,
): FenceShapeOnSheet[] {
  const [x1, y1, x2, y2] = worldBoxOf(camera, widened(region, 8));
  const middle = (x1 + x2) / 2;
  return shapes.filter((shape) => {
    const { box } = shape;
    if (box[3] < y1 || box[1] > y2) return false;
    const shift = Math.round(middle - (box[0] + box[2]) / 2);
    if (box[2] + shift < x1 || box[0] + shift > x2) return false;
    return sharedRegion(fenceRegion(shape, camera), region) !== undefined;
  });
}

/** Fences near a region, as stitched outlines. */
export function fencesLayer(
  shapes: readonly FenceShapeOnSheet[],
  camera: Camera,
  paint: FencesPaint = {},
  region: Region = wholeOf(camera),
): Layer {
  const seen = fencesNear(shapes, camera, region);
  // By the whole picture: parts that are drawn one by one must match.
  const crowded = shapes.length > CROWD && fencesNear(shapes, camera, wholeOf(camera)).length > CROWD;
  const steps: Step[] = [];
  const plain = new Map<string, number[][]>();
  for (const shape of seen) {
    const { fence } = shape;
    const inside = paint.inside?.has(fence.id) === true;
    const off = paint.off?.has(fence.id) === true;
    const uncertain = !inside && paint.uncertain?.has(fence.id) === true;
    const closed = paint.toneOf?.(fence) === 'closed';
    const colour = closed ? LOOK.alert : LOOK.violet;
    const [x1, y1, x2, y2] = pixelBox(shape.box, camera);
    const size = Math.max(x2 - x1, y2 - y1);
    if (size < SPECK) continue;
    const rings =
      size < DOT
        ? [[x1, y1, x2, y1, x2, y2, x1, y2]]
        : pixelRings(shape.rings, camera, crowded ? CROWD_FINEST : undefined);
    if ((crowded || size < DOT) && !inside) {
      const list = plain.get(colour);
      if (list === undefined) plain.set(colour, [...rings]);
      else list.push(...rings);
      continue;
    }
    const hatch =
      (closed || inside) && !off
        ? { fill: { colour, spacing: closed ? 5 : 6, width: inside ? 1.1 : 0.6, angle: closed ? -45 : 60 } }
        : {};
    steps.push({
      kind: 'shape',
      rings,
      closed: true,
      stroke: { colour: LOOK.parchment, width: inside ? 4 : 3 },
    });
    steps.push({
      kind: 'shape',
      rings,
      closed: true,
      ...hatch,
      stroke: { colour, ...stitch(inside, uncertain, off) },
    });
  }
  for (const [colour, rings] of plain)
    steps.unshift({ kind: 'shape', rings, closed: true, stroke: { colour, width: 1, plain: true } });
  return { id: 'fences', steps };
}

/** Width, length and gaps of the stitch of an outline, in pixels. */
function stitch(
  inside: boolean,
  uncertain: boolean,
  off: boolean,
): { width: number; dash: [number, number] } {
  if (off) return { width: 2.4, dash: [2.4, 7] };
  if (inside) return { width: 2.6, dash: [4, 1.5] };
  return uncertain ? { width: 2.6, dash: [3, 4] } : { width: 1.7, dash: [6, 4] };
}

/** Name tabs of the visible fences, where there is room. */
function fenceTabs(
  shapes: readonly FenceShapeOnSheet[],
  camera: Camera,
  paint: FencesPaint,
  room: LabelRoom,
): Layer {
  if (camera.zoom < (paint.tabsFrom ?? 13.3)) return { id: 'tabs', steps: [] };
  const whole = wholeOf(camera);
  const seen = fencesNear(shapes, camera, whole).filter((shape) => {
    const region = fenceRegion(shape, camera);
    return region[2] - region[0] >= 2 * DOT;
  });
  // When there are many, only fences with somebody inside have names.
  const named =
    seen.length <= MAX_TABS ? seen : seen.filter(({ fence }) => paint.inside?.has(fence.id) === true);
  const steps = named.flatMap((shape) => {
    const { fence } = shape;
    const inside = paint.inside?.has(fence.id) === true;
    const colour = paint.toneOf?.(fence) === 'closed' ? LOOK.alert : LOOK.violet;
    return tabSteps(fence.name, pixelRings(shape.rings, camera), inside, colour, room);
  });
  return { id: 'tabs', steps };
}

/** Widest name of a tab in pixels; a longer one is cut. */
const WIDEST = 220;

/** A paper tab at the top of the outline. */
function tabSteps(
  whole: string,
  rings: readonly number[][],
  inside: boolean,
  colour: string,
  room: LabelRoom,
): Step[] {
  const size = 12;
  const name = cutText(whole, WIDEST, (part) => room.measure(part, size, 600));
  const width = room.measure(name, size, 600) + 12;
  const height = 17;
  // The highest corner of the outline with room above it in the visible part.
  let x = NaN;
  let y = Infinity;
  for (const ring of rings) {
    for (let i = 0; i + 1 < ring.length; i += 2) {
      const [cx, cy] = [ring[i] as number, ring[i + 1] as number];
      if (cy < y && room.holds(cx - width / 2, cy - height, width, height)) [x, y] = [cx, cy];
    }
  }
  const left = x - width / 2;
  const top = y - height;
  if (Number.isNaN(x) || !room.take(left, top, width, height)) return [];
  const notch = 4;
  const outline = [
    left + notch,
    top,
    left + width - notch,
    top,
    left + width,
    top + height,
    left,
    top + height,
  ];
  return [
    {
      kind: 'shape',
      rings: [outline],
      closed: true,
      fill: inside ? colour : LOOK.parchment,
      stroke: { colour, width: 1 },
    },
    {
      kind: 'text',
      x,
      y: top + 12.5,
      text: name,
      size,
      weight: 600,
      anchor: 'middle',
      colour: inside ? LOOK.parchment : LOOK.ink,
    },
  ];
}

/** Fences, with the sides of the user. */
export interface FencesLayer {
  readonly kind: 'fences';
  readonly fences: readonly Fence[];
  readonly paint?: FencesPaint;
}

/** Fences prepared for drawing. */
interface FencesOnSheet extends ReadyLayer {
  readonly fences: readonly Fence[];
  readonly shapes: readonly FenceShapeOnSheet[];
  readonly paint: FencesPaint;
}

export const FENCES = layerKind<FencesLayer, FencesOnSheet>({
  kind: 'fences',
  options: { fences: list, paint: optional(someObject) },
  prepare({ fences, paint = {} }, before) {
    checkPaint(paint);
    const shapes = before?.fences === fences ? before.shapes : fenceShapes(fences);
    return {
      fences,
      shapes,
      paint,
      under: (camera, region) => [fencesLayer(shapes, camera, paint, region)],
      over: (camera, room) => [fenceTabs(shapes, camera, paint, room)],
      bounds: () => boundsOfBoxes(shapes.map(({ box }) => box)),
      describe() {
        const inside = fences.filter(({ id }) => paint.inside?.has(id) === true).map(({ name }) => name);
        return [{ item: 'fences', count: fences.length }, ...(inside.length === 0 ? [] : [{ inside }])];
      },
    };
  },
  change(before, after) {
    if (before === undefined || after === undefined || before.shapes !== after.shapes) return 'all';
    const [was, is] = [before.paint, after.paint];
    if (was.toneOf !== is.toneOf || was.tabsFrom !== is.tabsFrom) return 'all';
    // Only fences whose state has changed are drawn again.
    const changed = after.shapes.filter(({ fence: { id } }) =>
      STANDINGS.some((standing) => (was[standing]?.has(id) ?? false) !== (is[standing]?.has(id) ?? false)),
    );
    return (camera) =>
      changed
        .map((shape) => fenceRegion(shape, camera))
        .reduce<Region | undefined>((all, region) => regionAround(all, region), undefined);
  },
});

function checkPaint(paint: FencesPaint): void {
  checkOptions<Required<FencesPaint>>('the paint of fences', paint as Required<FencesPaint>, {
    inside: idSet,
    uncertain: idSet,
    off: idSet,
    toneOf: callable,
    tabsFrom: numberFrom(0, 30, ''),
  });
}

function idSet(value: unknown): string | undefined {
  return value instanceof Set ? undefined : 'must be a Set of ids of fences';
}

/** Sets of fences with a drawing of their own. */
const STANDINGS = ['inside', 'uncertain', 'off'] as const;

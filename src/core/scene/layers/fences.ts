import { ahead } from '../../geodesy/ahead.js';
import type { Position } from '../../geodesy/position.js';
import type { Fence } from '../../fence/fence.js';
import type { Camera } from '../camera.js';
import { LOOK } from '../look.js';
import type { Layer, Step } from '../scene.js';
import { textWidth } from '../text-width.js';
import { pixelRings, worldRing } from '../world-shape.js';
import { LabelRoom } from './label-room.js';

/** What a fence is for: an ordinary area, or one that must not be entered. */
export type FenceTone = 'ordinary' | 'closed';

export interface FencesPaint {
  /** Ids of the fences someone is inside of: their stitch tightens and fills. */
  readonly inside?: ReadonlySet<string>;
  readonly toneOf?: (fence: Fence) => FenceTone;
  /** Least zoom that shows the name tabs. Default 13.3. */
  readonly tabsFrom?: number;
}

/** Fences as stitched outlines with a name tab. */
export function fencesLayer(
  fences: readonly Fence[],
  camera: Camera,
  paint: FencesPaint = {},
  room = new LabelRoom(),
): Layer {
  const steps: Step[] = [];
  const tabs: Step[] = [];
  for (const fence of fences) {
    const rings = pixelRings(outlinesOf(fence).map(worldRing), camera);
    const inside = paint.inside?.has(fence.id) === true;
    const closed = paint.toneOf?.(fence) === 'closed';
    const colour = closed ? LOOK.alert : LOOK.violet;
    const hatch =
      closed || inside
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
      stroke: { colour, width: inside ? 2.6 : 1.7, dash: inside ? [4, 1.5] : [6, 4] },
    });
    if (camera.zoom >= (paint.tabsFrom ?? 13.3))
      tabs.push(...tabSteps(fence.name, rings, inside, colour, room));
  }
  return { id: 'fences', steps: [...steps, ...tabs] };
}

/** The outlines of a fence as positions; a circle as 72 of them, within 0.1 % of its radius. */
function outlinesOf(fence: Fence): (readonly Position[])[] {
  if (fence.kind === 'polygon') return fence.parts.flatMap((part) => [...part]);
  return [Array.from({ length: 72 }, (_, i) => ahead(fence.centre, i * 5, fence.radius))];
}

/** A paper tab at the top of the outline. */
function tabSteps(
  name: string,
  rings: readonly number[][],
  inside: boolean,
  colour: string,
  room: LabelRoom,
): Step[] {
  const size = 12;
  const width = textWidth(name, size, 600) + 12;
  const height = 17;
  // The highest corner of the outline that has room above it in the part that is seen.
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

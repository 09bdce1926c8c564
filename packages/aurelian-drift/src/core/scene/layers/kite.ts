import type { Fix } from '../../fix/fix.js';
import { RADIANS } from '../../geodesy/wgs84.js';
import type { Camera } from '../camera.js';
import { LOOK, blend } from '../look.js';
import type { Layer, Step } from '../scene.js';
import { PLAIN_WORDS, type MapWords } from '../map-words.js';
import { textWidth, type MeasureText } from '../text-width.js';

/** How the kite of the own place is drawn. */
export interface KitePaint {
  /** Current time, milliseconds since 1970 UTC, for the age of the fix. Default: the fix counts as fresh. */
  readonly now?: number;
  /** Seconds after which the kite fades and shows its age. Default 15. */
  readonly staleAfter?: number;
  /** Words of the age. Default: English. */
  readonly words?: MapWords;
  /** Measures the age in the font that draws it. Default: widths of the font of the house. */
  readonly measure?: MeasureText;
}

/** Default of `staleAfter`. */
export const STALE_AFTER = 15;

/** Half length along the course, half width, in pixels; at rest both are `REST`. */
const LONG = 19;
const TAIL = 13;
const WIDE = 9.5;
const REST = 11.5;

/** The own place: a gold kite, longer along the course, in its accuracy ring. */
export function kiteLayer(fix: Fix, camera: Camera, paint: KitePaint = {}): Layer {
  const { x, y } = camera.pixelOf(fix);
  const age = paint.now === undefined ? 0 : (paint.now - fix.time) / 1000;
  const stale = age > (paint.staleAfter ?? STALE_AFTER) || fix.marks?.includes('cached') === true;
  const steps: Step[] = [];
  const radius = fix.accuracy === undefined ? 0 : fix.accuracy / camera.metresPerPixelAt(fix.lat);
  if (radius > REST) {
    const colour = stale ? blend(LOOK.gold, LOOK.parchment, 0.5) : LOOK.gold;
    steps.push({
      kind: 'disc',
      x,
      y,
      radius,
      fill: { colour, spacing: 5, width: 0.7, angle: 30 },
      stroke: { colour, width: 1.3 },
    });
  }
  const outline = kiteOutline(x, y, fix.course === undefined ? undefined : fix.course - camera.turn);
  const halo = stale ? LOOK.parchment : blend(LOOK.parchment, LOOK.gold, 0.15);
  steps.push({ kind: 'shape', rings: [outline], closed: true, stroke: { colour: halo, width: 6 } });
  steps.push({
    kind: 'shape',
    rings: [outline],
    closed: true,
    fill: stale ? blend(LOOK.gold, LOOK.parchment, 0.62) : LOOK.gold,
    stroke: { colour: stale ? blend(LOOK.ink, LOOK.parchment, 0.4) : LOOK.ink, width: 2 },
  });
  // The spar, from nose to tail: it shows the direction at small sizes too.
  const spar = [outline[0] as number, outline[1] as number, outline[4] as number, outline[5] as number];
  if (fix.course !== undefined)
    steps.push({ kind: 'shape', rings: [spar], closed: false, stroke: { colour: LOOK.ink, width: 1 } });
  if (stale) {
    const { words = PLAIN_WORDS, measure = textWidth } = paint;
    const text = words.format.age(age);
    steps.push(...ageSteps(text, measure(text, 12, 600), x, y + 34));
  }
  return { id: 'kite', steps };
}

/** Nose, right, tail, left, as x, y. */
function kiteOutline(x: number, y: number, heading: number | undefined): number[] {
  const along = heading === undefined ? [REST, REST, REST] : [LONG, TAIL, WIDE];
  const [nose, tail, side] = along as [number, number, number];
  const sin = Math.sin((heading ?? 0) * RADIANS);
  const cos = Math.cos((heading ?? 0) * RADIANS);
  const at = (forward: number, right: number) => [
    x + forward * sin + right * cos,
    y - forward * cos + right * sin,
  ];
  const shoulder = heading === undefined ? 0 : 2;
  return [...at(nose, 0), ...at(shoulder, side), ...at(-tail, 0), ...at(shoulder, -side)];
}

function ageSteps(text: string, textWide: number, x: number, y: number): Step[] {
  const width = textWide + 10;
  const box = [x - width / 2, y - 12, x + width / 2, y - 12, x + width / 2, y + 5, x - width / 2, y + 5];
  return [
    {
      kind: 'shape',
      rings: [box],
      closed: true,
      fill: LOOK.parchment,
      stroke: { colour: LOOK.ink, width: 0.8 },
    },
    { kind: 'text', x, y: y + 0.5, text, size: 12, weight: 600, anchor: 'middle', colour: LOOK.goldText },
  ];
}

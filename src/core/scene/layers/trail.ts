import type { Trail } from '../../trail/trail.js';
import type { Camera } from '../camera.js';
import { LOOK, blend } from '../look.js';
import { mercatorX, mercatorY } from '../mercator.js';
import type { Layer, Step } from '../scene.js';

/** Shades from slow to fast. */
const SHADES = 7;
const COLOURS = Array.from({ length: SHADES }, (_, i) => blend(LOOK.violet, LOOK.gold, i / (SHADES - 1)));

export interface TrailPaint {
  /** m/s drawn in violet and in gold; by default the slowest and fastest tenth of what is there. */
  readonly slow?: number;
  readonly fast?: number;
}

/**
 * A trail as an ink-edged line shaded by speed, broken between segments. Points within a pixel of the one
 * before are not drawn.
 */
export function trailLayer(trail: Trail, camera: Camera, paint: TrailPaint = {}): Layer {
  const runs = trail.segments.map(({ start, end }) => pixelRun(trail, camera, start, end));
  const drawn = runs.filter((run) => run.xy.length >= 4);
  const [slow, fast] = speedRange(drawn, paint);
  const byShade: number[][][] = COLOURS.map(() => []);
  for (const { xy, speeds } of drawn) {
    let shade = -1;
    let piece: number[] = [];
    for (let i = 2; i < xy.length; i += 2) {
      const share = fast > slow ? ((speeds[i / 2] ?? slow) - slow) / (fast - slow) : 0.5;
      const next = Math.max(0, Math.min(SHADES - 1, Math.round(share * (SHADES - 1))));
      if (next !== shade) {
        piece = [xy[i - 2] as number, xy[i - 1] as number];
        byShade[next]?.push(piece);
        shade = next;
      }
      piece.push(xy[i] as number, xy[i + 1] as number);
    }
  }
  const lines = drawn.map((run) => run.xy);
  const steps: Step[] = [];
  if (lines.length > 0) {
    steps.push({
      kind: 'shape',
      rings: lines,
      closed: false,
      stroke: { colour: LOOK.parchment, width: 7.5 },
    });
    steps.push({ kind: 'shape', rings: lines, closed: false, stroke: { colour: LOOK.ink, width: 5.6 } });
    byShade.forEach((rings, shade) => {
      const colour = COLOURS[shade] ?? LOOK.gold;
      if (rings.length > 0)
        steps.push({ kind: 'shape', rings, closed: false, stroke: { colour, width: 3.4 } });
    });
  }
  return { id: 'trail', steps };
}

interface PixelRun {
  readonly xy: number[];
  /** Speed at each point drawn, m/s; NaN when not known. */
  readonly speeds: number[];
}

function pixelRun(trail: Trail, camera: Camera, start: number, end: number): PixelRun {
  const xy: number[] = [];
  const speeds: number[] = [];
  for (let i = start; i < end; i++) {
    const { x, y } = camera.pixelOfWorld(
      mercatorX(trail.number(i, 'lon')),
      mercatorY(trail.number(i, 'lat')),
    );
    const near = Math.abs(x - (xy.at(-2) ?? NaN)) < 1 && Math.abs(y - (xy.at(-1) ?? NaN)) < 1;
    if (near && i < end - 1) continue;
    xy.push(x, y);
    speeds.push(trail.number(i, 'speed'));
  }
  return { xy, speeds };
}

function speedRange(runs: readonly PixelRun[], { slow, fast }: TrailPaint): [number, number] {
  const known = runs
    .flatMap((run) => run.speeds.filter((speed) => !Number.isNaN(speed)))
    .sort((a, b) => a - b);
  const least = slow ?? known[Math.floor(known.length * 0.1)] ?? 0;
  const most = fast ?? known[Math.floor(known.length * 0.9)] ?? 0;
  return [least, most];
}

import type { CrumbSpacing } from '../../trail/crumbs.js';
import { crumbsOf } from '../../trail/crumbs.js';
import type { Bounds } from '../../geodesy/bounds.js';
import type { Fix } from '../../fix/fix.js';
import { Trail } from '../../trail/trail.js';
import type { Camera, Pixel } from '../camera.js';
import type { Change, ReadyLayer } from '../layer-kind.js';
import { LOOK, blend } from '../look.js';
import { wholeOf, widened, worldBoxOf, type Region } from '../region.js';
import type { Layer, Step } from '../scene.js';
import { TrailPyramid } from '../trail-pyramid.js';
import type { Words } from '../words.js';

/** Colours from slow to fast, low to high, good to poor. */
const SHADES = 7;
const COLOURS = Array.from({ length: SHADES }, (_, i) => blend(LOOK.violet, LOOK.gold, i / (SHADES - 1)));
/** Number of points in a picture above which a line is drawn without its paper rim and round joins. */
const DENSE = 3000;
/** Maximum number of points of a trail in one picture. */
const MAX_POINTS = 18_000;

/** Quantities that the colour of a trail can show. */
export const SHADINGS = ['speed', 'altitude', 'accuracy', 'plain'] as const;
/** Quantity that the colour of a trail shows. */
export type Shading = (typeof SHADINGS)[number];

/** Paths of a trail that a picture can show. */
export const TRAIL_PATHS = ['raw', 'smoothed', 'both'] as const;
/** Paths of a trail that a picture can show: from fix to fix, smoothed, or both. */
export type TrailPath = (typeof TRAIL_PATHS)[number];

/** How a trail is drawn. */
export interface TrailPaint {
  /** Quantity of the colour, from violet to gold: slow to fast, low to high, good to poor. Default `speed`. */
  readonly shade?: Shading;
  /** Values drawn in violet and in gold. Default: the lowest and the highest tenth of the values. */
  readonly min?: number;
  readonly max?: number;
  /** Marks along the trail. */
  readonly crumbs?: CrumbSpacing;
  /**
   * The path that is drawn: from fix to fix, smoothed so that it does not tremble, or the smoothed one over a thin line
   * from fix to fix. Default `raw`.
   */
  readonly path?: TrailPath;
}

/** Range of the values for the colours: the lowest and the highest tenth, by a sample of at most 2000 fixes. */
function shadeRange(trail: Trail, { shade = 'speed', min, max }: TrailPaint): readonly [number, number] {
  if (shade === 'plain') return [0, 0];
  const stride = Math.max(1, Math.ceil(trail.length / 2000));
  const sample: number[] = [];
  for (let i = 0; i < trail.length; i += stride) {
    const value = trail.number(i, shade);
    if (!Number.isNaN(value)) sample.push(value);
  }
  sample.sort((a, b) => a - b);
  return [
    min ?? sample[Math.floor(sample.length * 0.1)] ?? 0,
    max ?? sample[Math.floor(sample.length * 0.9)] ?? 0,
  ];
}

/**
 * A trail as an ink-edged line coloured by a value, with breaks between segments; points that a picture cannot show
 * apart are not drawn. For a whole picture; a map keeps the pyramid and the range, and draws parts with `trailSteps`.
 */
export function trailLayer(trail: Trail, camera: Camera, paint: TrailPaint = {}): Layer {
  const pyramid = new TrailPyramid(trail);
  const range = shadeRange(trail, paint);
  const detail = trailDetail(pyramid, camera);
  return { id: 'trail', steps: trailSteps(pyramid, camera, wholeOf(camera), paint, range, detail) };
}

/** How a line is drawn: with a rim of paper around its ink; without it; also without round joins; or thin. */
type TrailLook = 'rimmed' | 'round' | 'plain' | 'thin';

/** How a trail is drawn in a whole picture, so that its parts match. */
interface TrailDetail {
  /** Zoom of the points. */
  readonly zoom: number;
  readonly look: TrailLook;
}

function trailDetail(pyramid: TrailPyramid, camera: Camera): TrailDetail {
  const { zoom, points } = pyramid.detailFor(camera.zoom, worldBoxOf(camera, wholeOf(camera)), MAX_POINTS);
  return { zoom, look: points > DENSE ? 'plain' : 'rimmed' };
}

/** The part of a trail near a region of the picture. */
function trailSteps(
  pyramid: TrailPyramid,
  camera: Camera,
  region: Region,
  paint: TrailPaint,
  range: readonly [number, number],
  detail: TrailDetail = trailDetail(pyramid, camera),
): Step[] {
  const brush = new TrailBrush(pyramid.trail, paint, range);
  const trodden = new TroddenGround(region);
  const [x1, y1, x2, y2] = widened(region, 8);
  let [lastX, lastY] = [0, 0];
  pyramid.visit(detail.zoom, worldBoxOf(camera, widened(region, 8)), {
    begin(_index, wx, wy) {
      ({ x: lastX, y: lastY } = camera.pixelOfUnwrapped(wx, wy));
      brush.lift();
    },
    go(index, wx, wy) {
      const { x, y } = camera.pixelOfUnwrapped(wx, wy);
      const beside =
        (x < x1 && lastX < x1) || (x > x2 && lastX > x2) || (y < y1 && lastY < y1) || (y > y2 && lastY > y2);
      // Many rounds over the same ground look like one line.
      if (beside || trodden.knows(lastX, lastY, x, y)) brush.lift();
      else brush.go(index, lastX, lastY, x, y);
      lastX = x;
      lastY = y;
    },
  });
  const crumbs = paint.crumbs === undefined ? [] : crumbSteps(pyramid, camera, region, paint.crumbs);
  return [...brush.steps(detail.look), ...crumbs];
}

/** The end of a trail from a fix on, with every fix: the growth since the picture was drawn. */
function tailSteps(
  pyramid: TrailPyramid,
  camera: Camera,
  from: number,
  paint: TrailPaint,
  range: readonly [number, number],
  look: TrailLook,
): Step[] {
  const { trail } = pyramid;
  const brush = new TrailBrush(trail, paint, range);
  const starts = new Set(trail.segments.map(({ start }) => start));
  let last: Pixel | undefined;
  for (let i = Math.max(0, from - 1); i < pyramid.length; i++) {
    const at = camera.pixelOfWorld(...pyramid.at(i));
    if (last === undefined || starts.has(i)) brush.lift();
    else brush.go(i, last.x, last.y, at.x, at.y);
    last = at;
  }
  return brush.steps(look);
}

/** Collects the steps of a line, in pieces of one colour. */
class TrailBrush {
  readonly #trail: Trail;
  readonly #shade: Shading;
  readonly #range: readonly [number, number];
  readonly #lines: number[][] = [];
  readonly #byShade: number[][][] = COLOURS.map(() => []);
  #line: number[] = [];
  #piece: number[] = [];
  #pieceShade = -1;
  #lifted = true;

  constructor(trail: Trail, { shade = 'speed' }: TrailPaint, range: readonly [number, number]) {
    this.#trail = trail;
    this.#shade = shade;
    this.#range = range;
  }

  lift(): void {
    this.#lifted = true;
  }

  go(index: number, fromX: number, fromY: number, toX: number, toY: number): void {
    if (this.#lifted) {
      this.#line = [fromX, fromY];
      this.#lines.push(this.#line);
      this.#pieceShade = -1;
      this.#lifted = false;
    }
    this.#line.push(toX, toY);
    const next = this.#shadeOf(index);
    if (next !== this.#pieceShade) {
      this.#piece = [fromX, fromY];
      this.#byShade[next]?.push(this.#piece);
      this.#pieceShade = next;
    }
    this.#piece.push(toX, toY);
  }

  steps(look: TrailLook): Step[] {
    if (this.#lines.length === 0) return [];
    if (look === 'thin')
      return [{ kind: 'shape', rings: this.#lines, closed: false, stroke: { colour: LOOK.ink, width: 1 } }];
    const plain = look === 'plain';
    const stroke = (rings: number[][], colour: string, width: number): Step => ({
      kind: 'shape',
      rings,
      closed: false,
      stroke: { colour, width, ...(plain && { plain }) },
    });
    return [
      ...(look === 'rimmed' ? [stroke(this.#lines, LOOK.parchment, 7.5)] : []),
      stroke(this.#lines, LOOK.ink, 5.6),
      ...this.#byShade.flatMap((rings, i) =>
        rings.length === 0 ? [] : [stroke(rings, COLOURS[i] ?? LOOK.gold, 3.4)],
      ),
    ];
  }

  #shadeOf(index: number): number {
    const [min, max] = this.#range;
    const value = this.#shade === 'plain' ? NaN : this.#trail.number(index, this.#shade);
    const share = max > min && !Number.isNaN(value) ? (value - min) / (max - min) : 0.5;
    return Math.max(0, Math.min(SHADES - 1, Math.round(share * (SHADES - 1))));
  }
}

function crumbSteps(pyramid: TrailPyramid, camera: Camera, region: Region, spacing: CrumbSpacing): Step[] {
  const [x1, y1, x2, y2] = widened(region, 6);
  return crumbsOf(pyramid.trail, spacing).flatMap((index): Step[] => {
    const { x, y } = camera.pixelOfWorld(...pyramid.at(index));
    if (x < x1 || x > x2 || y < y1 || y > y2) return [];
    return [
      { kind: 'disc', x, y, radius: 4, fill: LOOK.parchment, stroke: { colour: LOOK.ink, width: 1.4 } },
    ];
  });
}

/** Size in pixels of a cell of the covered ground. */
const CELL = 2;
/** Longer steps, in pixels, are always drawn. */
const STRIDE = 7;

/** Cells of a region that a line has covered. */
class TroddenGround {
  readonly #left: number;
  readonly #top: number;
  readonly #columns: number;
  readonly #rows: number;
  readonly #cells: Uint8Array;

  constructor(region: Region) {
    const [x1, y1, x2, y2] = widened(region, 16);
    this.#left = Math.floor(x1 / CELL);
    this.#top = Math.floor(y1 / CELL);
    this.#columns = Math.ceil(x2 / CELL) - this.#left + 1;
    this.#rows = Math.ceil(y2 / CELL) - this.#top + 1;
    this.#cells = new Uint8Array(this.#columns * this.#rows);
  }

  /** Whether a short step only covers known ground; if not, its end is known from now on. */
  knows(fromX: number, fromY: number, toX: number, toY: number): boolean {
    const to = this.#cell(toX, toY);
    const from = this.#cell(fromX, fromY);
    const short = Math.abs(toX - fromX) + Math.abs(toY - fromY) <= STRIDE;
    const known =
      short && to >= 0 && from >= 0 && (this.#cells[to] as number) > 3 && (this.#cells[from] as number) > 3;
    if (to >= 0 && (this.#cells[to] as number) < 255) this.#cells[to] = (this.#cells[to] as number) + 1;
    return known;
  }

  #cell(x: number, y: number): number {
    const column = Math.floor(x / CELL) - this.#left;
    const row = Math.floor(y / CELL) - this.#top;
    return column < 0 || row < 0 || column >= this.#columns || row >= this.#rows
      ? -1
      : row * this.#columns + column;
  }
}

/** A trail, which may grow. */
export interface TrailLayer {
  readonly kind: 'trail';
  readonly trail: Trail;
  readonly paint?: TrailPaint;
}

/** Points of a growing trail that are drawn in each frame before they become part of the picture. */
const TAIL = 240;

/** A trail prepared for drawing. */
export class TrailOnSheet implements ReadyLayer {
  readonly pyramid: TrailPyramid;
  readonly #paint: TrailPaint;
  #range: readonly [number, number];
  /** Number of fixes in the computed range, and in the picture. */
  #ranged: number;
  #drawn: number;
  /** Number of fixes when the picture that is being drawn was begun. */
  #begun: number;
  /** The detail that it is drawn with until the whole picture is drawn again. */
  #detail: TrailDetail | undefined;

  readonly #thin: boolean;

  /** @param thin whether it is a thin line, below another path. */
  constructor(trail: Trail, paint: TrailPaint, before: TrailOnSheet | undefined, thin = false) {
    this.pyramid = before?.pyramid.trail === trail ? before.pyramid : new TrailPyramid(trail);
    this.#thin = thin;
    this.#paint = paint;
    this.#range = shadeRange(trail, paint);
    this.#ranged = this.#drawn = this.#begun = trail.length;
  }

  under(camera: Camera, region: Region): Layer[] {
    this.#detail ??= trailDetail(this.pyramid, camera);
    const detail: TrailDetail = this.#thin ? { ...this.#detail, look: 'thin' } : this.#detail;
    const steps = trailSteps(this.pyramid, camera, region, this.#paint, this.#range, detail);
    return [{ id: 'trail', steps }];
  }

  /** The end of the trail that is not in the picture yet. */
  fresh(camera: Camera): Layer[] {
    if (this.pyramid.length <= this.#drawn) return [];
    const look = this.#thin ? 'thin' : 'round';
    const steps = tailSteps(this.pyramid, camera, this.#drawn, this.#paint, this.#range, look);
    return [{ id: 'tail', steps }];
  }

  /** Steps of an end that is not part of the trail yet, and may change. */
  provisional(fixes: readonly Fix[], camera: Camera): Step[] {
    const trail = new Trail();
    for (const fix of fixes) trail.append(fix);
    return tailSteps(new TrailPyramid(trail), camera, 0, this.#paint, this.#range, 'round');
  }

  describe(): Words[] {
    return [{ item: 'trails', count: 1 }];
  }

  bounds(): Bounds | undefined {
    return this.pyramid.trail.bounds();
  }

  /** A long tail becomes part of the picture; twice as many fixes may have another range of colours. */
  grow(): Change | undefined {
    const { pyramid } = this;
    if (!pyramid.grow()) return undefined;
    if (pyramid.length > 2 * this.#ranged) {
      const range = shadeRange(pyramid.trail, this.#paint);
      const same = range[0] === this.#range[0] && range[1] === this.#range[1];
      this.#range = range;
      this.#ranged = pyramid.length;
      if (!same) {
        this.#drawn = pyramid.length;
        return 'all';
      }
    }
    const from = this.#drawn;
    if (pyramid.length - from <= TAIL) return undefined;
    this.#drawn = pyramid.length;
    return (camera) => stretch(pyramid, from, camera);
  }

  begin(camera: Camera): void {
    this.#detail = trailDetail(this.pyramid, camera);
    this.#begun = this.pyramid.length;
  }

  drawn(): void {
    this.#drawn = Math.max(this.#drawn, this.#begun);
  }
}

/** Region of a part of a trail, from a fix to its end. */
function stretch(pyramid: TrailPyramid, from: number, camera: Camera): Region {
  let [x1, y1, x2, y2] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = Math.max(0, from - 1); i < pyramid.length; i++) {
    const { x, y } = camera.pixelOfWorld(...pyramid.at(i));
    x1 = Math.min(x1, x);
    y1 = Math.min(y1, y);
    x2 = Math.max(x2, x);
    y2 = Math.max(y2, y);
  }
  return [x1 - 8, y1 - 8, x2 + 8, y2 + 8];
}

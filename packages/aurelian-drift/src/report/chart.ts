import { scaleLinear } from 'd3-scale';
import { area, curveMonotoneX, line } from 'd3-shape';
import { xmlText } from '../core/formats/xml.js';
import { LOOK } from '../core/scene/look.js';

type Runs = readonly (readonly (readonly [x: number, y: number])[])[];

/** Content of a chart, in the units that it writes. */
export interface ChartContent {
  readonly title: string;
  /** Description for people who do not see it. */
  readonly description: string;
  readonly runs: Runs;
  /** A thin line below: the values as they were measured. */
  readonly raw?: Runs;
  readonly x: { readonly unit: string; readonly ticks?: readonly number[]; textOf?(value: number): string };
  readonly y: {
    readonly unit: string;
    /** Minimum span of the axis, so that noise on flat ground does not look like hills. */
    readonly span: number;
    readonly fromZero?: boolean;
  };
  readonly colour: string;
}

const WIDTH = 520;
const HEIGHT = 190;
const MARGIN = { left: 44, right: 12, top: 10, bottom: 34 };

/** A profile as SVG: a line with the area below it, broken where nothing is known. */
export function chart({ title, description, runs, raw = [], x, y, colour }: ChartContent): string {
  const all = [...runs, ...raw].flat();
  const xs = all.map(([value]) => value);
  const ys = all.map(([, value]) => value);
  const xScale = scaleLinear([Math.min(...xs), Math.max(...xs)], [MARGIN.left, WIDTH - MARGIN.right]);
  const [low, high] = spanOf(y.fromZero === true ? [0, ...ys] : ys, y.span, y.fromZero === true);
  const yScale = scaleLinear([low, high], [HEIGHT - MARGIN.bottom, MARGIN.top]).nice(4);
  const floor = HEIGHT - MARGIN.bottom;
  const stroke = line<readonly [number, number]>(
    ([at]) => round(xScale(at)),
    ([, value]) => round(yScale(value)),
  ).curve(curveMonotoneX);
  const fill = area<readonly [number, number]>(
    ([at]) => round(xScale(at)),
    floor,
    ([, value]) => round(yScale(value)),
  ).curve(curveMonotoneX);
  const grid = yScale.ticks(4).map((tick) => {
    const at = round(yScale(tick));
    return (
      `<path d="M${MARGIN.left},${at}H${WIDTH - MARGIN.right}" class="grid"/><text ` +
      `x="${MARGIN.left - 6}" y="${at + 4}" text-anchor="end">${tick}</text>`
    );
  });
  const ticks = (x.ticks ?? xScale.ticks(6)).map((tick) => {
    const at = round(xScale(tick));
    return (
      `<path d="M${at},${floor}v4" class="tick"/><text x="${at}" y="${floor + 17}" ` +
      `text-anchor="middle">${xmlText(x.textOf?.(tick) ?? String(tick))}</text>`
    );
  });
  const measured = raw.map(
    (run) =>
      `<path d="${stroke([...run]) ?? ''}" fill="none" stroke="${LOOK.ink}" stroke-opacity="0.45" ` +
      `stroke-width="0.7"/>`,
  );
  const drawn = runs.map(
    (run) =>
      `<path d="${fill([...run]) ?? ''}" fill="${colour}" fill-opacity="0.22"/>` +
      `<path d="${stroke([...run]) ?? ''}" fill="none" stroke="${colour}" stroke-width="1.6" ` +
      `stroke-linejoin="round" stroke-linecap="round"/>`,
  );
  return (
    `<figure class="chart"><figcaption>${xmlText(title)} <span class="unit">${xmlText(y.unit)}</span></figcaption>` +
    `<svg viewBox="0 0 ${WIDTH} ${HEIGHT}" ` +
    `role="img"><title>${xmlText(title)}</title><desc>${xmlText(description)}</desc>` +
    `${grid.join('')}${measured.join('')}${drawn.join('')}<path d="M${MARGIN.left},${floor}H${WIDTH - MARGIN.right}" ` +
    `stroke="${LOOK.ink}" stroke-width="1"/>${ticks.join('')}` +
    `<text x="${WIDTH - MARGIN.right}" y="${HEIGHT - 3}" text-anchor="end" ` +
    `class="unit">${xmlText(x.unit)}</text></svg></figure>\n`
  );
}

/** From the lowest to the highest value, widened evenly to at least the span. */
function spanOf(values: readonly number[], span: number, fromZero: boolean): [number, number] {
  const low = Math.min(...values);
  const high = Math.max(...values);
  const missing = Math.max(0, span - (high - low));
  return fromZero ? [low, high + missing] : [low - missing / 2, high + missing / 2];
}

/** A tenth of a pixel is sufficient, and short. */
function round(value: number): number {
  return Math.round(value * 10) / 10;
}

import type { Formatter } from '../core/fix/formatter.js';
import { UNITS, type UnitSystem } from '../core/fix/units.js';
import { distance } from '../core/geodesy/distance.js';
import { LOOK } from '../core/scene/look.js';
import { filled } from '../core/texts/part.js';
import type { ReportTexts } from '../core/texts/texts.js';
import { lineSummary } from '../core/trail/line-summary.js';
import type { Line, LinePoint } from '../core/trail/line.js';
import { chart } from './chart.js';

/** Figures of a line, whose points have no times, as pairs of a name and a text. */
export function lineFigures(
  line: Line,
  words: Formatter,
  { figures: names }: ReportTexts,
): [name: string, text: string][] {
  const { points, distance: metres, slopeDistance, climb, descent } = lineSummary(line);
  const reported = (value: number | undefined, textOf: (value: number) => string) =>
    value === undefined ? '–' : textOf(value);
  return [
    [names.distance, words.length(metres)],
    [names.slope, reported(slopeDistance, (value) => words.length(value))],
    [names.climb, reported(climb, (value) => words.altitude(value))],
    [names.descent, reported(descent, (value) => words.altitude(value))],
    [names.points, String(points)],
  ];
}

/** The profile of a line: height over distance. Empty without heights. */
export function lineProfile({ parts }: Line, units: UnitSystem, texts: ReportTexts): string {
  const { large, small } = UNITS[units];
  let metres = 0;
  const runs = parts.map((part) => {
    const run: [number, number][] = [];
    let before: LinePoint | undefined;
    for (const point of part) {
      if (before !== undefined) metres += distance(before, point);
      before = point;
      if (point.altitude !== undefined) run.push([metres / large.size, point.altitude / small.size]);
    }
    return run;
  });
  const ys = runs.flat().map(([, y]) => y);
  if (ys.length < 2) return '';
  const [low, high] = [ys.reduce((a, b) => Math.min(a, b)), ys.reduce((a, b) => Math.max(a, b))];
  return chart({
    title: texts.heightOverDistance,
    description: filled(texts.range, { low: low.toFixed(1), high: high.toFixed(1), unit: small.sign }),
    runs: runs.filter((run) => run.length > 0),
    x: { unit: filled(texts.distanceAxis, { unit: large.sign }) },
    y: { unit: small.sign, span: 20 / small.size },
    colour: LOOK.gold,
  });
}

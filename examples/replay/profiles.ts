import { profileOf, type ProfilePoint } from 'aurelian-drift/report';
import type { Trail } from 'aurelian-drift';
import UPlot from 'uplot';
import 'uplot/dist/uPlot.min.css';
import { element } from '../shared/page.js';
import { lastUpTo } from './last-up-to.js';

/* Height and speed of a trail, over time or distance. The cursor of one chart is that of the other, and of the map. */

export type Over = 'elapsed' | 'distance';

/** Pixels of a chart. */
const HEIGHT = 120;
/** Seconds between the marks of an axis of time. */
const TICKS = [60, 120, 300, 600, 900, 1800, 3600, 7200, 21_600];
const colour = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

export interface ProfilesParts {
  readonly trail: Trail;
  /** The smoothed trail, whose speed stands beside the measured one. */
  readonly smoothed: Trail;
  readonly over: Over;
  /** The pointer is at this many seconds from the start. */
  readonly onTime: (elapsed: number) => void;
}

export class Profiles {
  readonly #points: readonly ProfilePoint[];
  readonly #over: Over;
  /** Place of each point on the horizontal axis: seconds or kilometres. */
  readonly #along: number[];
  readonly #charts: readonly UPlot[];
  readonly #size: ResizeObserver;

  constructor({ trail, smoothed, over, onTime }: ProfilesParts) {
    this.#over = over;
    const [raw, steady] = [profileOf(trail), profileOf(smoothed)];
    // An empty value between two runs breaks the line: nothing is known of the gap.
    const gap = (points: readonly ProfilePoint[]) => [...points, { ...(points.at(-1) as ProfilePoint) }];
    this.#points = raw.flatMap(gap);
    const ends = new Set<number>();
    let count = 0;
    for (const run of raw) ends.add((count += run.length + 1) - 1);
    const column = (value: (point: ProfilePoint) => number | undefined) =>
      this.#points.map((point, i) => (ends.has(i) ? null : (value(point) ?? null)));
    const steadySpeed = speedAt(steady.flat());
    this.#along = this.#points.map((point) => (over === 'elapsed' ? point.elapsed : point.distance / 1000));
    const chart = (id: string, label: string, series: readonly UPlot.Series[], data: (number | null)[][]) =>
      new UPlot(
        {
          width: element(id).clientWidth,
          height: HEIGHT,
          cursor: { sync: { key: 'trail' }, drag: { x: false, y: false }, y: false },
          legend: { show: false },
          scales: { x: { time: false } },
          axes: [
            axis({
              size: 30,
              space: 70,
              values: (_, ticks) => ticks.map((tick) => this.#tickText(tick)),
              ...(over === 'elapsed' && { incrs: TICKS }),
            }),
            axis({ label, labelSize: 18, size: 46 }),
          ],
          series: [{}, ...series],
        },
        [this.#along, ...data] as UPlot.AlignedData,
        element(id),
      );
    for (const id of ['height', 'speed']) element(id).replaceChildren();
    const [thin, thick] = [colour('--faint-line'), colour('--violet')];
    const line = (stroke: string, width: number) => ({ stroke, width, points: { show: false } });
    this.#charts = [
      chart(
        'height',
        'Height, m',
        [line(thin, 1), line(thick, 2)],
        [column(({ altitude }) => altitude), column(({ smoothAltitude }) => smoothAltitude)],
      ),
      chart(
        'speed',
        'Speed, km/h',
        [line(thin, 1), line(thick, 2)],
        [
          column(({ speed }) => (speed === undefined ? undefined : speed * 3.6)),
          column(({ elapsed }) => steadySpeed(elapsed)),
        ],
      ),
    ];
    for (const each of this.#charts)
      each.over.addEventListener('pointermove', (event) => {
        const point = this.#points[each.posToIdx(event.offsetX)];
        if (point !== undefined) onTime(point.elapsed);
      });
    this.#size = new ResizeObserver(() => {
      for (const each of this.#charts)
        each.setSize({ width: each.root.parentElement?.clientWidth ?? 0, height: HEIGHT });
    });
    this.#size.observe(element('profiles'));
  }

  /** The point at some seconds from the start. */
  at(elapsed: number): ProfilePoint | undefined {
    return this.#points[indexAt(this.#points, elapsed)];
  }

  /** Puts the cursor of the charts at some seconds from the start. */
  point(elapsed: number): void {
    const x = this.#along[indexAt(this.#points, elapsed)];
    const [chart] = this.#charts;
    if (chart === undefined || x === undefined) return;
    chart.setCursor({ left: chart.valToPos(x, 'x'), top: 10 });
  }

  close(): void {
    this.#size.disconnect();
    for (const chart of this.#charts) chart.destroy();
  }

  #tickText(tick: number): string {
    if (this.#over === 'distance') return `${tick} km`;
    const [hours, minutes] = [Math.floor(tick / 3600), Math.round((tick % 3600) / 60)];
    const rest = minutes === 0 && hours > 0 ? '' : `${minutes} min`;
    return hours === 0 ? rest : `${hours} h ${rest}`.trimEnd();
  }
}

function axis(more: Partial<UPlot.Axis>): UPlot.Axis {
  const ink = colour('--ink');
  return {
    stroke: ink,
    font: "13px 'Source Sans 3', sans-serif",
    labelFont: "13px 'Source Sans 3', sans-serif",
    grid: { stroke: colour('--dune'), width: 1 },
    ticks: { stroke: ink, width: 1, size: 4 },
    ...more,
  };
}

/** Speed in km/h by the seconds from the start. */
function speedAt(points: readonly ProfilePoint[]): (elapsed: number) => number | undefined {
  return (elapsed) => {
    const speed = points[indexAt(points, elapsed)]?.speed;
    return speed === undefined ? undefined : speed * 3.6;
  };
}

const indexAt = (points: readonly ProfilePoint[], elapsed: number) =>
  lastUpTo(elapsed, points.length, (i) => (points[i] as ProfilePoint).elapsed);

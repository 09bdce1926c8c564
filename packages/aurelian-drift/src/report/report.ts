import type { Crossing } from '../core/fence/crossing.js';
import type { Fence } from '../core/fence/fence.js';
import { FenceTimes, type TimeInside } from '../core/fence/time-inside.js';
import { Formatter } from '../core/fix/formatter.js';
import { UNITS, UNIT_SYSTEMS, type UnitSystem } from '../core/fix/units.js';
import { xmlText } from '../core/formats/xml.js';
import { boundsOf } from '../core/geodesy/bounds.js';
import { InputError } from '../core/check/input-error.js';
import { anything, checkOptions, numberFrom, oneOf, someText } from '../core/check/options.js';
import { Camera } from '../core/scene/camera.js';
import type { Ground } from '../core/scene/layers/ground.js';
import { LOOK } from '../core/scene/look.js';
import { sheetScene, type SheetContent } from '../core/scene/sheet.js';
import { TRAIL_PATHS, type TrailPath } from '../core/scene/layers/trail.js';
import { writeSvg } from '../core/scene/svg.js';
import { splitsOf, type Split } from '../core/trail/splits.js';
import { report } from '../core/texts/english.js';
import { counted, filled, partOf } from '../core/texts/part.js';
import type { ReportTexts, Texts } from '../core/texts/texts.js';
import type { Line } from '../core/trail/line.js';
import type { Summary } from '../core/trail/summary.js';
import type { Trail } from '../core/trail/trail.js';
import { chart } from './chart.js';
import { lineFigures, lineProfile } from './line-figures.js';
import { meansOf, profileOf, type ProfilePoint } from './profile.js';
import { reportStyle, type ReportFont } from './report-style.js';

/** Content of a report. */
export interface ReportContent {
  readonly trails: readonly Trail[];
  /** Lines without times, such as planned routes: length, climb, points, and what cannot be known. */
  readonly lines?: readonly Line[];
  /** Fences whose crossings and times are in the report. */
  readonly fences?: readonly Fence[];
  /** Ids of the fences that are drawn as closed. */
  readonly closed?: ReadonlySet<string>;
  /** Background of the map. Default: a plain grid. */
  readonly ground?: Ground;
  /** Source of the data of the background. */
  readonly credit?: string;
}

/** Options of `reportPage`. */
export interface ReportOptions {
  /** Heading of the page. Default: the names of the trails. */
  readonly title?: string;
  /** Length of a split in metres. Default: a kilometre, a mile or a nautical mile. */
  readonly splits?: number;
  /** Units of the figures. Default `metric`. */
  readonly units?: UnitSystem;
  /** Path of the trails on the map: from fix to fix, smoothed, or both. Default `raw`. */
  readonly path?: TrailPath;
  /** BCP 47 tag for numbers and dates. Default: the language of `texts`, else `en-GB`. */
  readonly locale?: string;
  /** Texts of the page. Default: English. */
  readonly texts?: Texts | undefined;
  /** An IANA name. Default `UTC`. */
  readonly timeZone?: string;
  /** Font that is put into the page. Default: a font of the reader’s system. */
  readonly font?: ReportFont;
}

/** Pixels of the map, and of the one that narrow screens get instead. */
const SHEETS = { wide: { width: 1060, height: 640 }, narrow: { width: 420, height: 520 } } as const;

/**
 * A report of trails as one HTML page that needs nothing else: map, key figures, profiles of height and speed over
 * distance and time, splits, and, where fences are given, crossings. It runs no script, asks the network for nothing,
 * and prints on A4.
 *
 * @throws {InputError} for a misspelt option, and when no trail has a fix.
 */
export function reportPage(content: ReportContent, options: ReportOptions = {}): string {
  checkOptions('reportPage', content, {
    trails: anything,
    lines: anything,
    fences: anything,
    closed: anything,
    ground: anything,
    credit: someText,
  });
  checkOptions('reportPage', options, {
    title: someText,
    splits: numberFrom(1, 1e7, 'm'),
    units: oneOf(...UNIT_SYSTEMS),
    path: oneOf(...TRAIL_PATHS),
    locale: someText,
    timeZone: someText,
    font: anything,
    texts: anything,
  });
  const trails = content.trails.filter((trail) => trail.length > 0);
  const lines = (content.lines ?? []).filter(({ parts }) => parts.flat().length > 0);
  if (trails.length + lines.length === 0) throw new InputError('nothing-inside', 'there is no fix to report');
  const { units = 'metric', timeZone = 'UTC', font } = options;
  const own = partOf(options.texts, 'report', report);
  const language = options.texts?.report === undefined ? undefined : options.texts.language;
  const locale = options.locale ?? language ?? 'en-GB';
  const words = new Formatter({ locale, timeZone, units });
  const names = [...trails.map(({ name = own.trail }) => name), ...lines.map(({ name = own.line }) => name)];
  const title = options.title ?? names.join(', ');
  const parts = new Report(
    content,
    words,
    units,
    options.splits ?? UNITS[units].large.size,
    own,
    language ?? 'en',
    options.path,
  );
  const several = names.length > 1;
  const texts = [
    ...trails.map((trail) => parts.trail(trail, !several)),
    ...lines.map((line) => parts.line(line, !several)),
  ];
  const section = (text: string, i: number) =>
    `<section><h2>${xmlText(names[i] ?? '')}</h2>\n${text}</section>`;
  return `<!doctype html>
<html lang="${xmlText(language ?? 'en')}">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'; font-src data:">
<meta name="generator" content="Aurelian Drift">
<title>${xmlText(title)}</title>
<style>${reportStyle(font)}</style>
</head>
<body>
<header><h1>${xmlText(title)}</h1></header>
<main>
${several ? `${parts.sheet(trails, lines)}\n${texts.map(section).join('\n')}` : texts.join('')}
${definitionsText(own)}
</main>
</body>
</html>
`;
}

/** Titles of the profiles, by what they show and over what. */
const TITLES: Readonly<
  Record<'height' | 'speed', Readonly<Record<'distance' | 'time', (texts: ReportTexts) => string>>>
> = {
  height: { distance: (texts) => texts.heightOverDistance, time: (texts) => texts.heightOverTime },
  speed: { distance: (texts) => texts.speedOverDistance, time: (texts) => texts.speedOverTime },
};

/** Heading of a part: below the page's own, or below that of one of several trails. */
type HeadingLevel = 'h2' | 'h3';

/** Writes the parts of a page, all in the same words. */
class Report {
  readonly #content: ReportContent;
  readonly #words: Formatter;
  readonly #units: UnitSystem;
  readonly #splitLength: number;

  readonly #path: TrailPath;
  readonly #texts: ReportTexts;
  /** BCP 47 tag of the texts. */
  readonly #language: string;

  constructor(
    content: ReportContent,
    words: Formatter,
    units: UnitSystem,
    splitLength: number,
    texts: ReportTexts,
    language: string,
    path: TrailPath = 'raw',
  ) {
    this.#path = path;
    this.#texts = texts;
    this.#language = language;
    this.#content = content;
    this.#words = words;
    this.#units = units;
    this.#splitLength = splitLength;
  }

  /** Everything about one trail. */
  trail(trail: Trail, withMap: boolean): string {
    const level = withMap ? 'h2' : 'h3';
    const summary = trail.summary();
    return (
      this.#when(summary) +
      (trail.description === undefined ? '' : `<p>${xmlText(trail.description)}</p>\n`) +
      this.#figures(summary) +
      this.#remarks(summary) +
      (withMap ? this.sheet([trail], []) : '') +
      this.#profiles(trail, level) +
      `<div class="tables">${this.#splits(splitsOf(trail, this.#splitLength))}` +
      `${this.#stops(summary)}${this.#fences(trail, level)}</div>\n`
    );
  }

  /** Everything about one line. */
  line(line: Line, withMap: boolean): string {
    const chart = lineProfile(line, this.#units, this.#texts);
    const level = withMap ? 'h2' : 'h3';
    return (
      (line.description === undefined ? '' : `<p>${xmlText(line.description)}</p>\n`) +
      figuresText(lineFigures(line, this.#words, this.#texts)) +
      `<p>${xmlText(this.#texts.noTimes)}</p>\n` +
      (withMap ? this.sheet([], [line]) : '') +
      (chart === ''
        ? ''
        : `<${level} class="part">${xmlText(this.#texts.profiles)}</${level}>\n` +
          `<div class="charts one">${chart}</div>\n`)
    );
  }

  /** The map. */
  sheet(trails: readonly Trail[], lines: readonly Line[]): string {
    const { ground, fences, closed = new Set<string>(), credit } = this.#content;
    const last = trails.at(-1)?.at(-1);
    const points = lines.flatMap(({ parts }) => parts.flat());
    const bounds = boundsOf([...trails.flatMap((trail) => [...trail]), ...points]);
    if (bounds === undefined) return '';
    const toneOf = (fence: Fence) => (closed.has(fence.id) ? 'closed' : 'ordinary');
    const content: SheetContent = {
      layers: [
        ...trails.map((trail) => ({ kind: 'trail' as const, trail, paint: { path: this.#path } })),
        ...lines.map((line) => ({ kind: 'line' as const, line })),
        ...(ground === undefined ? [] : [{ kind: 'ground' as const, ground }]),
        ...(fences === undefined ? [] : [{ kind: 'fences' as const, fences, paint: { toneOf } }]),
      ],
      ...(last !== undefined && trails.length + lines.length === 1 && { fix: last }),
      margin: { units: this.#units, credit: credit ?? this.#texts.noBackground },
    };
    const pictures = (['wide', 'narrow'] as const).map((kind) => {
      const size = SHEETS[kind];
      const margin = kind === 'wide' ? 70 : 50;
      const camera = new Camera({ centre: { lat: 0, lon: 0 }, zoom: 15, ...size }).framing(
        bounds,
        margin,
        17,
      );
      return `<div class="${kind}">${writeSvg(sheetScene(camera, content), 'day', `${kind}-`)}</div>`;
    });
    return `<figure class="sheet">${pictures.join('')}</figure>\n`;
  }

  #when({ start, end }: Summary): string {
    if (start === undefined || end === undefined) return '';
    const when = filled(this.#texts.when, { start: this.#words.time(start), end: this.#words.time(end) });
    return `<p class="when">${xmlText(when)}</p>\n`;
  }

  #figures(summary: Summary): string {
    const words = this.#words;
    const reported = <Value>(value: Value | undefined, textOf: (value: Value) => string) =>
      value === undefined ? '–' : textOf(value);
    const { figures: names, none } = this.#texts;
    const figures: [string, string][] = [
      [names.distance, words.length(summary.distance)],
      [names.duration, reported(summary.duration, (value) => words.duration(value))],
      [names.moving, reported(summary.moving, (value) => words.duration(value))],
      [names.resting, reported(summary.resting, (value) => words.duration(value))],
      [names.averageSpeed, reported(summary.averageSpeed, (value) => words.speed(value))],
      [names.movingSpeed, reported(summary.movingSpeed, (value) => words.speed(value))],
      [names.pace, reported(summary.movingSpeed, (value) => words.pace(value))],
      [names.topSpeed, reported(summary.topSpeed, (value) => words.speed(value))],
      [names.climb, reported(summary.climb, (value) => words.altitude(value))],
      [names.descent, reported(summary.descent, (value) => words.altitude(value))],
      [names.fixes, String(summary.fixes)],
      [names.gaps, summary.gaps.length === 0 ? none : String(summary.gaps.length)],
      [names.stops, summary.stops.length === 0 ? none : String(summary.stops.length)],
      [names.rawDistance, words.length(summary.rawDistance)],
    ];
    return figuresText(figures);
  }

  /** What a reader must know to take the figures rightly. */
  #remarks({ gaps, veiled, path, rawDistance }: Summary): string {
    const words = this.#words;
    const silent = gaps.reduce((sum, { start, end }) => sum + (end - start) / 1000, 0);
    const { gapRemark, veilRemark, filterRemark } = this.#texts;
    const language = this.#language;
    const remarks = [
      ...(gaps.length > 0
        ? [counted(gapRemark, gaps.length, language, { duration: words.duration(silent) })]
        : []),
      ...(veiled !== undefined ? [counted(veilRemark, veiled, language)] : []),
      ...(path !== 'fixes' ? [filled(filterRemark, { distance: words.length(rawDistance) })] : []),
    ];
    return remarks.map((text) => `<p>${xmlText(text)}</p>\n`).join('');
  }

  #profiles(trail: Trail, level: HeadingLevel): string {
    const runs = profileOf(trail);
    const texts = this.#texts;
    const { large, small, speed } = UNITS[this.#units];
    const over = {
      distance: {
        read: (point: ProfilePoint) => point.distance / large.size,
        x: { unit: filled(texts.distanceAxis, { unit: large.sign }) },
      },
      time: { read: (point: ProfilePoint) => point.elapsed / 60, x: clockAxis(runs, texts.timeAxis) },
    };
    const smooth = runs.flat().filter(({ smoothAltitude }) => smoothAltitude !== undefined).length > 1;
    const shown = {
      height: {
        read: ({ smoothAltitude, altitude }: ProfilePoint) => {
          const shownAltitude = smooth ? smoothAltitude : altitude;
          return shownAltitude === undefined ? undefined : shownAltitude / small.size;
        },
        raw: ({ altitude }: ProfilePoint) => (altitude === undefined ? undefined : altitude / small.size),
        y: { unit: `${small.sign}${datumText(trail, texts)}`, span: 20 / small.size },
        colour: LOOK.gold,
      },
      speed: {
        read: (point: ProfilePoint) => (point.speed === undefined ? undefined : point.speed / speed.size),
        raw: undefined,
        y: { unit: speed.sign, span: 1 / speed.size, fromZero: true },
        colour: LOOK.violet,
      },
    };
    const charts = (['height', 'speed'] as const).flatMap((what) =>
      (['distance', 'time'] as const).map((along) => {
        const means = meansOf(runs, over[along].read, shown[what].read);
        if (means.flat().length < 2) return '';
        const ys = means.flat().map(([, y]) => y);
        const { y, colour, raw } = shown[what];
        const measured = smooth && raw !== undefined ? meansOf(runs, over[along].read, raw) : undefined;
        return chart({
          title: TITLES[what][along](texts),
          description: filled(texts.range, {
            low: Math.min(...ys).toFixed(1),
            high: Math.max(...ys).toFixed(1),
            unit: y.unit,
          }),
          runs: means,
          ...(measured !== undefined && { raw: measured }),
          x: over[along].x,
          y: measured === undefined ? y : { ...y, unit: `${y.unit} · ${texts.measuredLine}` },
          colour,
        });
      }),
    );
    const unknown = runs.some((run) => run.some(({ altitude }) => altitude !== undefined))
      ? ''
      : `<p>${xmlText(texts.noHeight)}</p>\n`;
    return (
      `<${level} class="part">${xmlText(texts.profiles)}</${level}>\n${unknown}<div ` +
      `class="charts">${charts.join('')}</div>\n`
    );
  }

  #splits(splits: readonly Split[]): string {
    if (splits.length === 0) return '';
    const words = this.#words;
    const whole = splits.filter(({ distance }) => distance > this.#splitLength * 0.99);
    const best = Math.max(...whole.map(({ movingSpeed = 0 }) => movingSpeed));
    const max = Math.max(...splits.map(({ movingSpeed = 0 }) => movingSpeed));
    const heights = splits.some(({ climb }) => climb !== undefined);
    const rows = splits.map((split, i) => {
      const { movingSpeed = 0, climb, descent } = split;
      const share = max > 0 ? Math.round((100 * movingSpeed) / max) : 0;
      const fastest = whole.length > 1 && movingSpeed === best && whole.includes(split);
      const cells = [
        String(i + 1),
        words.length(split.distance),
        words.duration(split.duration),
        words.pace(movingSpeed),
        ...(heights
          ? [climb, descent].map((value) => (value === undefined ? '–' : words.altitude(value)))
          : []),
      ];
      return (
        `<tr${fastest ? ' class="best"' : ''}>` +
        cells.map((cell) => `<td class="number">${xmlText(cell)}</td>`).join('') +
        `<td class="bar"><span style="width:${share}%"></span></td></tr>`
      );
    });
    const { splits: title, split, figures, time, pace, up, down, speedInMotion } = this.#texts;
    const head = [split, figures.distance, time, pace, ...(heights ? [up, down] : [])];
    return tableText(
      filled(title, { length: words.length(this.#splitLength) }),
      [...head.map((name) => ({ name, number: true })), { name: speedInMotion, number: false, bar: true }],
      rows,
    );
  }

  #stops({ stops }: Summary): string {
    if (stops.length === 0) return '';
    const texts = this.#texts;
    const words = this.#words;
    const rows = stops.map(
      (stop) =>
        `<tr><td class="number">${xmlText(words.clock(stop.start))}</td><td ` +
        `class="number">${xmlText(words.duration(stop.duration))}</td><td>${xmlText(words.position(stop))}</td></tr>`,
    );
    return tableText(
      texts.stops,
      [
        { name: texts.from, number: true },
        { name: texts.duration, number: true },
        { name: texts.where, number: false },
      ],
      rows,
    );
  }

  #fences(trail: Trail, level: HeadingLevel): string {
    const { fences } = this.#content;
    if (fences === undefined) return '';
    const times = new FenceTimes(fences);
    const crossings: Crossing[] = [];
    for (const segment of trail.segments) {
      for (const fix of trail.fixesOf(segment)) crossings.push(...times.take(fix));
      times.breakSegment();
    }
    return `<div>${this.#inside(times.timeInside, level)}${this.#crossings(crossings)}</div>`;
  }

  #inside(times: readonly TimeInside[], level: HeadingLevel): string {
    const texts = this.#texts;
    if (times.length === 0)
      return `<${level} class="part">${xmlText(texts.fences)}</${level}><p>${xmlText(texts.noFence)}</p>`;
    const rows = times.map(
      ({ name, duration, visits }) =>
        `<tr><td>${xmlText(name)}</td><td ` +
        `class="number">${xmlText(this.#words.duration(duration))}</td><td ` +
        `class="number">${visits}</td></tr>`,
    );
    return tableText(
      texts.timeInFences,
      [
        { name: texts.fence, number: false },
        { name: texts.inside, number: true },
        { name: texts.visits, number: true },
      ],
      rows,
    );
  }

  #crossings(crossings: readonly Crossing[]): string {
    if (crossings.length === 0) return '';
    const texts = this.#texts;
    const rows = crossings.map(({ time, kind, name, certainty, duration }) => {
      const cells = [
        `<td class="number">${xmlText(this.#words.clock(time))}</td>`,
        `<td>${xmlText(texts.kinds[kind])}</td><td>${xmlText(name)}</td>`,
        `<td class="number">${Math.round(certainty * 100)} %</td>`,
        `<td class="number">${duration === undefined ? '' : xmlText(this.#words.duration(duration))}</td>`,
      ];
      return `<tr>${cells.join('')}</tr>`;
    });
    return tableText(
      texts.crossings,
      [
        { name: texts.time, number: true },
        { name: texts.kind, number: false },
        { name: texts.fence, number: false },
        { name: texts.certainty, number: true },
        { name: texts.duration, number: true },
      ],
      rows,
    );
  }
}

function figuresText(figures: readonly (readonly [name: string, value: string])[]): string {
  const cells = figures.map(
    ([name, value]) => `<div><dt>${xmlText(name)}</dt><dd>${xmlText(value)}</dd></div>`,
  );
  return `<dl class="figures">${cells.join('')}</dl>\n`;
}

function tableText(
  caption: string,
  head: readonly { readonly name: string; readonly number: boolean; readonly bar?: boolean }[],
  rows: readonly string[],
): string {
  const cells = head.map(
    ({ name, number, bar }) =>
      `<th scope="col"${number ? ' class="number"' : bar === true ? ' class="bar"' : ''}>${xmlText(name)}</th>`,
  );
  return (
    `<div class="scroll" tabindex="0" role="region" ` +
    `aria-label="${xmlText(caption)}"><table><caption>${xmlText(caption)}</caption>` +
    `<thead><tr>${cells.join('')}</tr></thead><tbody>${rows.join('\n')}</tbody></table></div>\n`
  );
}

/** Minutes since the start, written as hours and minutes, at even times. */
function clockAxis(
  runs: readonly (readonly ProfilePoint[])[],
  unit: string,
): {
  readonly unit: string;
  readonly ticks: readonly number[];
  textOf(minutes: number): string;
} {
  const all = (runs.at(-1)?.at(-1)?.elapsed ?? 0) / 60;
  const steps = [1, 2, 5, 10, 15, 30, 60, 120, 180, 360, 720, 1440];
  const step = steps.find((each) => all / each <= 7) ?? Math.ceil(all / 7 / 1440) * 1440;
  return {
    unit,
    ticks: Array.from({ length: Math.floor(all / step) + 1 }, (_, i) => i * step),
    textOf: (minutes) => `${Math.floor(minutes / 60)}:${String(Math.round(minutes % 60)).padStart(2, '0')}`,
  };
}

/** What heights are above, when all say the same. */
function datumText(trail: Trail, { aboveSea, aboveEllipsoid }: ReportTexts): string {
  const datums = new Set<string>();
  for (const { altitude, altitudeDatum } of trail)
    if (altitude !== undefined) datums.add(altitudeDatum ?? 'unknown');
  const [only] = datums;
  if (datums.size !== 1) return '';
  return only === 'sea' ? ` ${aboveSea}` : only === 'ellipsoid' ? ` ${aboveEllipsoid}` : '';
}

function definitionsText({ definitions }: ReportTexts): string {
  const items = definitions.map(
    ([term, definition]) => `<div><dt>${xmlText(term)}</dt><dd>${xmlText(definition)}</dd></div>`,
  );
  return `<dl class="defined">\n${items.join('\n')}\n</dl>`;
}

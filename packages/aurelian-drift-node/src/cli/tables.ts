import Table from 'cli-table3';
import {
  courseText,
  durationText,
  Formatter,
  positionText,
  type Bounds,
  type Crossing,
  type LineSummary,
  type Split,
  type Summary,
  type TimeInside,
} from 'aurelian-drift';
import { timeText } from 'aurelian-drift/internal';
import { counted } from './counted.js';

const PLAIN = {
  top: '',
  'top-mid': '',
  'top-left': '',
  'top-right': '',
  bottom: '',
  'bottom-mid': '',
  'bottom-left': '',
  'bottom-right': '',
  left: '',
  'left-mid': '',
  mid: '',
  'mid-mid': '',
  right: '',
  'right-mid': '',
  middle: '  ',
};

/** Columns with two spaces between them; right-aligned where `right` names the column. */
export function table(
  rows: readonly (readonly string[])[],
  head?: readonly string[],
  right: readonly number[] = [],
): string {
  const made = new Table({
    chars: PLAIN,
    style: { 'padding-left': 0, 'padding-right': 0, head: [], border: [] },
    ...(head !== undefined && { head: [...head] }),
    colAligns: Array.from({ length: rows[0]?.length ?? 0 }, (_, i) => (right.includes(i) ? 'right' : 'left')),
  });
  made.push(...rows.map((row) => row.map(printable)));
  return `${made.toString().replaceAll(/ +$/gm, '')}\n`;
}

/** Text from files without control characters for the terminal. */
export function printable(text: string): string {
  // eslint-disable-next-line no-control-regex -- the point is to find control characters
  return text.replaceAll(/[\u0000-\u001F\u007F-\u009F]+/g, '\uFFFD');
}

/** Default format of the command line: the same on every machine. */
export const PLAIN_WORDS = new Formatter({ locale: 'en-GB', timeZone: 'UTC' });

/** Figures beside a summary, where they were asked for. */
export interface SummaryExtras {
  /** Metres along the slope. */
  readonly slope?: number | undefined;
  /** Metres on lanes, and off them. */
  readonly match?: { readonly on: number; readonly off: number } | undefined;
}

/** A summary as names and values, without unknown ones. */
export function summaryRows(
  summary: Summary,
  words: Formatter,
  { slope, match }: SummaryExtras = {},
): [string, string][] {
  const {
    start,
    end,
    duration,
    moving,
    resting,
    averageSpeed,
    movingSpeed,
    topSpeed,
    climb,
    descent,
    bounds,
  } = summary;
  const { veiled } = summary;
  const rows: [string, string | undefined][] = [
    ['fixes', `${summary.fixes} in ${summary.segments} ${summary.segments === 1 ? 'segment' : 'segments'}`],
    ['from', start === undefined ? undefined : words.time(start)],
    ['to', end === undefined ? undefined : words.time(end)],
    ['duration', duration === undefined ? undefined : words.duration(duration)],
    ['moving', moving === undefined ? undefined : words.duration(moving)],
    ['resting', resting === undefined ? undefined : words.duration(resting)],
    ['distance', `${words.length(summary.distance)}${pathNote(summary, words)}`],
    ['along the slope', slope === undefined ? undefined : words.length(slope)],
    [
      'on lanes',
      match === undefined ? undefined : `${words.length(match.on)}, and ${words.length(match.off)} off them`,
    ],
    ['way of moving', summary.wayOfMoving],
    ['average speed', averageSpeed === undefined ? undefined : words.speed(averageSpeed)],
    ['moving speed', movingSpeed === undefined ? undefined : words.speed(movingSpeed)],
    ['pace', movingSpeed === undefined ? undefined : `${words.pace(movingSpeed)} in motion`],
    ['top speed', topSpeed === undefined ? undefined : words.speed(topSpeed)],
    ['climb', climbText(climb, descent, words)],
    [
      'gaps',
      summary.gaps.length === 0
        ? 'none'
        : summary.gaps.map((gap) => words.duration((gap.end - gap.start) / 1000)).join(', '),
    ],
    ...stopRows(summary, words),
    ['bounds', bounds === undefined ? undefined : boundsText(bounds)],
    ['veiled', veiled === undefined ? undefined : `${veiled} ${veiled === 1 ? 'part' : 'parts'} cut out`],
  ];
  return rows.filter((row): row is [string, string] => row[1] !== undefined);
}

/** Rows of a line: its figures, and what cannot be known of it. */
export function lineRows(
  { points, parts, distance, slopeDistance, climb, descent, bounds }: LineSummary,
  words: Formatter,
) {
  const rows: [string, string][] = [
    ['points', `${points} in ${counted(parts, 'part')}, without times`],
    ['distance', words.length(distance)],
    ...(slopeDistance === undefined
      ? []
      : [['along the slope', words.length(slopeDistance)] satisfies [string, string]]),
    ['climb', climbText(climb, descent, words)],
    ['unknown', 'duration, speeds, stops and gaps: they need times'],
  ];
  if (bounds !== undefined) rows.push(['bounds', boundsText(bounds)]);
  return rows;
}

function climbText(climb: number | undefined, descent: number | undefined, words: Formatter): string {
  return climb === undefined
    ? 'unknown'
    : `${words.altitude(climb)} up, ${words.altitude(descent ?? 0)} down`;
}

function boundsText(bounds: Bounds): string {
  return bounds.map((degrees) => degrees.toFixed(5)).join(', ');
}

/** What the distance was measured on, in brackets. */
function pathNote({ path, rawDistance, unsmoothed }: Summary, words: Formatter): string {
  if (path !== 'fixes') return ` (${path} path; raw sum ${words.length(rawDistance)})`;
  if (unsmoothed === undefined) return '';
  return unsmoothed === 'sparse'
    ? ' (from fix to fix: the fixes are too far apart to tell movement from noise)'
    : ' (from fix to fix: there are too few fixes to tell movement from noise)';
}

/** One row for each stop: when, for how long, and where. */
function stopRows({ stops }: Summary, words: Formatter): [string, string][] {
  if (stops.length === 0) return [['stops', 'none of a minute or more']];
  return stops.map((stop, i): [string, string] => [
    i === 0 ? 'stops' : '',
    `${words.clock(stop.start)} for ${words.duration(stop.duration)} at ${words.position(stop)}`,
  ]);
}

export const SPLIT_HEAD = ['split', 'distance', 'time', 'moving', 'pace', 'up', 'down'];

export function splitRow(split: Split, index: number, words: Formatter): string[] {
  const { distance, duration, moving, movingSpeed, climb, descent } = split;
  return [
    String(index + 1),
    words.length(distance),
    words.duration(duration),
    words.duration(moving),
    words.pace(movingSpeed ?? 0),
    climb === undefined ? '' : words.altitude(climb),
    descent === undefined ? '' : words.altitude(descent),
  ];
}

export const INSIDE_HEAD = ['fence', 'inside', 'visits'];

export function insideRow({ name, duration, visits }: TimeInside, words: Formatter): string[] {
  return [name, words.duration(duration), String(visits)];
}

/** `08:12:31`: time of day in UTC. */
export function clockText(time: number): string {
  return timeText(time).slice(11, 19);
}

/** Time of an event; for one in a gap, the times between which it happened. */
export function whenText({
  time,
  notBefore,
}: {
  readonly time: number;
  readonly notBefore?: number | undefined;
}): string {
  return notBefore === undefined ? clockText(time) : `${clockText(notBefore)}–${clockText(time)}`;
}

export function crossingRow(crossing: Crossing): string[] {
  const { kind, name, time, certainty, duration, accuracy } = crossing;
  return [
    clockText(time),
    kind,
    name,
    `${Math.round(certainty * 100)} %`,
    accuracy === undefined ? '' : `±${Math.round(accuracy)} m`,
    duration === undefined ? '' : durationText(duration),
  ];
}

export const CROSSING_HEAD = ['UTC', 'kind', 'fence', 'certainty', 'accuracy', 'duration'];

/** A crossing with all its data; one in a gap has the times between which it happened. */
export function crossingLogRow(crossing: Crossing): string[] {
  const [, kind, name, ...rest] = crossingRow(crossing) as [string, string, string, ...string[]];
  const { course } = crossing;
  return [
    whenText(crossing),
    kind,
    name,
    positionText(crossing),
    course === undefined ? '' : courseText(course),
    ...rest,
  ];
}

export const CROSSING_LOG_HEAD = [
  'UTC',
  'kind',
  'fence',
  'place',
  'course',
  'certainty',
  'accuracy',
  'duration',
];

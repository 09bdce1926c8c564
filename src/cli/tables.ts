import Table from 'cli-table3';
import { durationText, lengthText, speedText } from '../core/fix/words.js';
import type { Crossing } from '../core/fence/crossing.js';
import { timeText } from '../core/formats/time.js';
import type { Summary } from '../core/trail/summary.js';

const PLAIN = {
  top: '', 'top-mid': '', 'top-left': '', 'top-right': '', bottom: '', 'bottom-mid': '', 'bottom-left': '', 'bottom-right': '',
  left: '', 'left-mid': '', mid: '', 'mid-mid': '', right: '', 'right-mid': '', middle: '  ',
}; // prettier-ignore

/** Columns with two blanks between them; numbers to the right where `right` names the column. */
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

/** Text from files without what would steer a terminal. */
export function printable(text: string): string {
  // eslint-disable-next-line no-control-regex -- the point is to find control characters
  return text.replaceAll(/[\u0000-\u001F\u007F-\u009F]+/g, '\uFFFD');
}

/** A summary as names and values, what is unknown left out. */
export function summaryRows(summary: Summary): [string, string][] {
  const { start, end, duration, moving, averageSpeed, movingSpeed, topSpeed, climb, descent, bounds } =
    summary;
  const rows: [string, string | undefined][] = [
    ['fixes', `${summary.fixes} in ${summary.segments} ${summary.segments === 1 ? 'segment' : 'segments'}`],
    ['from', start === undefined ? undefined : timeText(start)],
    ['to', end === undefined ? undefined : timeText(end)],
    ['duration', duration === undefined ? undefined : durationText(duration)],
    ['moving', moving === undefined ? undefined : durationText(moving)],
    [
      'distance',
      `${lengthText(summary.distance)}${summary.path === 'fixes' ? '' : ` (moves beyond the accuracy; raw sum ${lengthText(summary.rawDistance)})`}`,
    ],
    ['average speed', averageSpeed === undefined ? undefined : speedText(averageSpeed)],
    ['moving speed', movingSpeed === undefined ? undefined : speedText(movingSpeed)],
    ['top speed', topSpeed === undefined ? undefined : speedText(topSpeed)],
    ['climb', climb === undefined ? 'unknown' : `${lengthText(climb)} up, ${lengthText(descent ?? 0)} down`],
    [
      'gaps',
      summary.gaps.length === 0
        ? 'none'
        : summary.gaps.map((gap) => durationText((gap.end - gap.start) / 1000)).join(', '),
    ],
    ['bounds', bounds === undefined ? undefined : bounds.map((degrees) => degrees.toFixed(5)).join(', ')],
  ];
  return rows.filter((row): row is [string, string] => row[1] !== undefined);
}

/** `08:12:31`, of a time of day in UTC. */
export function clockText(time: number): string {
  return timeText(time).slice(11, 19);
}

export function crossingRow(crossing: Crossing): string[] {
  const { kind, name, time, certainty, stay, accuracy } = crossing;
  return [
    clockText(time),
    kind,
    name,
    `${Math.round(certainty * 100)} %`,
    accuracy === undefined ? '' : `±${Math.round(accuracy)} m`,
    stay === undefined ? '' : durationText(stay),
  ];
}

export const CROSSING_HEAD = ['UTC', 'what', 'fence', 'certain', 'accuracy', 'stay'];

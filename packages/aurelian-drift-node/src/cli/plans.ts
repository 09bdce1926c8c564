import { InvalidArgumentError } from 'commander';
import {
  InputError,
  durationText,
  lengthText,
  plansOf,
  positionText,
  type Plan,
  type PlanEvent,
  type Progress,
} from 'aurelian-drift';
import { timeText } from 'aurelian-drift/internal';
import { readRouteFile } from './files.js';
import { clockText, printable } from './tables.js';

/**
 * `FILE`, `FILE:NAME` for one of several lines, or `demo` and `demo:NAME` for the island's rounds, as a plan. Waypoints
 * of the file near the line are its named points.
 */
export async function readPlan(argument: string, corridor: number | undefined): Promise<Plan> {
  const { line, waypoints, path } = await readRouteFile(argument);
  try {
    return plansOf({ routes: [line], waypoints }, corridor === undefined ? {} : { corridor })[0] as Plan;
  } catch (error) {
    throw error instanceof InputError ? error.at({ source: path }) : error;
  }
}

/** Half a corridor: metres of 1 to 10 000. */
export function checkCorridor(metres: number): number {
  if (!(metres >= 1 && metres <= 10_000)) throw new InvalidArgumentError('it is 1m to 10km.');
  return metres;
}

/** An event of a plan as a line of text. */
export function planLine(event: PlanEvent): string {
  const along = event.kind === 'finished' ? '' : `, ${lengthText(event.along)} along it`;
  return `${clockText(event.time)}  -- ${wordsOf(event)}${along}`;
}

function wordsOf(event: PlanEvent): string {
  switch (event.kind) {
    case 'left':
      return `left the plan to the ${event.side}, at ${positionText(event)}, now ${lengthText(event.distance)} away`;
    case 'back':
      return `back on the plan, at ${positionText(event)}`;
    case 'finished':
      return `finished, ${(100 * event.share).toFixed(0)} % of it done`;
    case 'reached':
      return `reached ${printable(event.name)}${event.late === undefined ? '' : `, ${lateText(event.late)}`}`;
    case 'skipped':
      return `skipped ${printable(event.name)}`;
  }
}

/** An event of a plan as plain data. */
export function planEventJson(event: PlanEvent): object {
  return { ...event, time: timeText(event.time) };
}

/** The place on a plan as names and values. */
export function progressRows({ plan, progress }: { plan: Plan; progress: Progress }): [string, string][] {
  const { done, left, share, skipped, repeated, on, distance: away, side, next, pace, arrival } = progress;
  const skippedMetres = skipped.reduce((sum, [from, to]) => sum + to - from, 0);
  return [
    [
      'plan',
      `${printable(plan.name ?? 'unnamed')}, ${lengthText(plan.line.length)}, corridor ±${lengthText(plan.corridor)}`,
    ],
    ['done', `${lengthText(done)}, ${(100 * share).toFixed(0)} %`],
    ['left', lengthText(left)],
    ...(skippedMetres >= 1 ? [['skipped', lengthText(skippedMetres)] as [string, string]] : []),
    ...(repeated >= 1 ? [['repeated', lengthText(repeated)] as [string, string]] : []),
    ['on the plan', on === undefined ? 'not certain' : on ? 'yes' : `no, ${lengthText(away)} to the ${side}`],
    ...(next === undefined
      ? []
      : [['next', `${printable(next.name)}, in ${lengthText(next.distance)}`] as [string, string]]),
    ...(pace === undefined ? [] : [['pace along it', `${(pace * 3.6).toFixed(1)} km/h`] as [string, string]]),
    ...(arrival === undefined || left < 1 ? [] : [['arrival', clockText(arrival)] as [string, string]]),
  ];
}

function lateText(seconds: number): string {
  if (Math.abs(seconds) < 30) return 'on time';
  return `${durationText(Math.abs(seconds))} ${seconds > 0 ? 'late' : 'early'}`;
}

import type { Crossing, Fix, LineSummary, Split, Summary } from 'aurelian-drift';
import { timeText } from 'aurelian-drift/internal';

/** One JSON value on a line of its own. */
export function printJson(value: unknown): void {
  process.stdout.write(`${JSON.stringify(value)}\n`);
}

/** Metres, seconds and m/s to a thousandth: finer is noise. */
function thousandths(value: number): number {
  return Math.round(value * 1000) / 1000;
}

/** A mean place to a tenth of a metre. */
function degrees(value: number): number {
  return Math.round(value * 1e6) / 1e6;
}

/** Figures of a line, to a thousandth. */
export function lineJson(summary: LineSummary): object {
  return toThousandths(summary);
}

function toThousandths(summary: LineSummary | Summary): object {
  return Object.fromEntries(
    Object.entries(summary).map(([key, value]) => [
      key,
      typeof value === 'number' ? thousandths(value) : (value as unknown),
    ]),
  );
}

/** A summary with times as RFC 3339. */
export function summaryJson(summary: Summary, name?: string): object {
  return {
    ...(name !== undefined && { name }),
    ...toThousandths(summary),
    ...(summary.start !== undefined && { start: timeText(summary.start) }),
    ...(summary.end !== undefined && { end: timeText(summary.end) }),
    gaps: summary.gaps.map(({ start, end }) => ({
      start: timeText(start),
      end: timeText(end),
      duration: (end - start) / 1000,
    })),
    stops: summary.stops.map(({ start, end, duration, lat, lon }) => ({
      start: timeText(start),
      end: timeText(end),
      duration,
      lat: degrees(lat),
      lon: degrees(lon),
    })),
  };
}

/** A split with times as RFC 3339. */
export function splitJson(split: Split): object {
  const numbers = Object.entries(split).map(([key, value]) => [key, thousandths(value as number)]);
  return {
    ...(Object.fromEntries(numbers) as Record<string, number>),
    start: timeText(split.start),
    end: timeText(split.end),
  };
}

export function fixJson(fix: Fix): object {
  return { ...fix, time: timeText(fix.time) };
}

export function crossingJson(crossing: Crossing): object {
  return {
    ...crossing,
    time: timeText(crossing.time),
    ...(crossing.notBefore !== undefined && { notBefore: timeText(crossing.notBefore) }),
    ...(crossing.course !== undefined && { course: Math.round(crossing.course * 10) / 10 }),
    certainty: thousandths(crossing.certainty),
    ...(crossing.duration !== undefined && { duration: thousandths(crossing.duration) }),
  };
}

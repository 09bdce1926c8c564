import { InvalidArgumentError } from 'commander';
import { InputError, readGeoUri, position, type Position } from 'aurelian-drift';
import { parseTime } from 'aurelian-drift/internal';

const DURATIONS: Readonly<Record<string, number>> = { ms: 0.001, s: 1, min: 60, h: 3600 };
const LENGTHS: Readonly<Record<string, number>> = { m: 1, km: 1000, ft: 0.3048, mi: 1609.344, nmi: 1852 };

/** `5s`, `2min`, `1.5h`: seconds. */
export function durationArgument(text: string): number {
  return quantity(text, DURATIONS, 'a duration', '5s or 2min');
}

/** `20m`, `1.5km`: metres. */
export function lengthArgument(text: string): number {
  return quantity(text, LENGTHS, 'a length', '20m or 1.5km');
}

function quantity(
  text: string,
  units: Readonly<Record<string, number>>,
  what: string,
  examples: string,
): number {
  const match = /^(\d+(?:\.\d+)?)\s*([a-z]*)$/.exec(text);
  const factor = match?.[2] === undefined ? undefined : units[match[2]];
  if (match === null || factor === undefined) {
    const missing = match?.[2] === '' ? 'the unit is missing; ' : '';
    throw new InvalidArgumentError(`${missing}${what} is written like ${examples}.`);
  }
  return Number(match[1]) * factor;
}

export function integerArgument(text: string): number {
  if (!/^\d{1,15}$/.test(text)) throw new InvalidArgumentError('a whole number is due.');
  return Number(text);
}

/** A number of items, 1 to 1000. */
export function countArgument(text: string): number {
  const count = integerArgument(text);
  if (count < 1 || count > 1000) throw new InvalidArgumentError('it is 1 to 1000.');
  return count;
}

/** A value that meets a rule of the library. */
export function ruled<Value>(value: Value, rule: (value: unknown) => string | undefined): Value {
  const problem = rule(value);
  if (problem !== undefined) throw new InvalidArgumentError(`${problem}.`);
  return value;
}

/** RFC 3339: milliseconds since 1970 UTC. */
export function timeArgument(text: string): number {
  const time = parseTime(text);
  if (Number.isNaN(time)) throw new InvalidArgumentError('a time is written like 2026-05-14T08:00:00Z.');
  return time;
}

/** `LAT,LON` in degrees with dots, or a geo URI; a true minus sign is accepted too. */
export function positionArgument(text: string): Position {
  if (/^geo:/i.test(text)) return geoArgument(text);
  const match = /^([-+\u2212]?\d+(?:\.\d+)?)\s*,\s*([-+\u2212]?\d+(?:\.\d+)?)$/.exec(text);
  if (match === null)
    throw new InvalidArgumentError(`"${text}" is no position; it is written LAT,LON, like 44.2,-33.6.`);
  const [lat, lon] = [match[1], match[2]].map((part) => Number(part?.replace('\u2212', '-'))) as [
    number,
    number,
  ];
  try {
    return position(lat, lon);
  } catch (error) {
    if (error instanceof InputError) throw new InvalidArgumentError(`${error.reason}.`);
    throw error;
  }
}

function geoArgument(text: string): Position {
  try {
    const place = readGeoUri(text);
    if (place !== undefined) return { lat: place.lat, lon: place.lon };
  } catch (error) {
    if (error instanceof InputError) throw new InvalidArgumentError(`${error.reason}.`);
    throw error;
  }
  throw new InvalidArgumentError(`"${text}" is no geo URI; one is written like geo:44.2,-33.6.`);
}

/** `1280x800`: pixels. */
export function sizeArgument(text: string): { width: number; height: number } {
  const match = /^(\d{2,5})x(\d{2,5})$/.exec(text);
  const [width, height] = [Number(match?.[1]), Number(match?.[2])];
  if (!(width >= 64 && height >= 64 && width <= 8192 && height <= 8192)) {
    throw new InvalidArgumentError('a size is written like 1280x800, from 64 to 8192 pixels a side.');
  }
  return { width, height };
}

/** `real`, `max`, or a factor of real time. */
export function tempoArgument(text: string): number {
  if (text === 'real') return 1;
  if (text === 'max') return Infinity;
  const tempo = Number(text);
  if (!(tempo > 0 && tempo <= 1e6))
    throw new InvalidArgumentError('a tempo is real, max, or a number above 0, like 60.');
  return tempo;
}

/** Gathers the values of an option that may be given several times. */
export function gathered(text: string, before: readonly string[] = []): string[] {
  return [...before, text];
}

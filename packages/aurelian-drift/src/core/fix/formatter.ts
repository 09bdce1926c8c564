import { InputError } from '../check/input-error.js';
import { numberProblem, formatValue } from '../check/number.js';
import { checkOptions, oneOf, someText } from '../check/options.js';
import type { Position } from '../geodesy/position.js';
import { decimalsFor, fixedDecimals } from './decimals.js';
import { UNITS, UNIT_SYSTEMS, type Unit, type UnitSystem, type Units } from './units.js';
import { ABSENT, ageText, compassPoint, durationText, type MaybeNumber } from './words.js';

/** Ways to write an angle: decimal degrees, degrees and minutes, or degrees, minutes and seconds. */
export const ANGLE_STYLES = ['degrees', 'minutes', 'seconds'] as const;
/** 44.20310°, 44° 12.186′, or 44° 12′ 11.2″. */
export type AngleStyle = (typeof ANGLE_STYLES)[number];

/** Options of `Formatter`. */
export interface FormatterOptions {
  /** BCP 47 tag, like `de` or `en-GB`, for decimals, dates and names of units. Default: that of the platform. */
  readonly locale?: string;
  /** `metric`: m, km, km/h. `imperial`: ft, mi, mph. `nautical`: m, nmi, kn. Default `metric`. */
  readonly units?: UnitSystem;
  /** IANA time zone, like `UTC` or `Etc/GMT+1`. Default: that of the platform. */
  readonly timeZone?: string;
  /** Decimals of the degree, 0 to 9, equal for all positions, or `auto` by the accuracy. Default 5. */
  readonly decimals?: number | 'auto';
  /** How an angle is written. Default `degrees`. */
  readonly angles?: AngleStyle;
  /** `letters`: 33.6° W. `sign`: −33.6°. Default `letters`. */
  readonly hemispheres?: 'letters' | 'sign';
}

/**
 * Formats positions and quantities for people, in one locale, one system of units and one number of decimals. Each
 * method takes SI units, degrees and milliseconds. An absent value (`undefined` or `null`) becomes a dash, `–`, except
 * in `accuracy`.
 *
 * Every method throws an {@link InputError} for a text in the place of a number.
 */
export class Formatter {
  readonly #options: FormatterOptions;
  readonly #units: Units;
  readonly #numbers = new Map<string, Intl.NumberFormat>();
  readonly #dates = new Map<string, Intl.DateTimeFormat>();

  /** @throws {InputError} for a misspelt option, an unknown locale or time zone. */
  constructor(options: FormatterOptions = {}) {
    checkOptions('Formatter', options, {
      locale: (value) => someText(value) ?? localeProblem(value as string),
      units: oneOf(...UNIT_SYSTEMS),
      timeZone: (value) => someText(value) ?? timeZoneProblem(value as string),
      decimals: decimalsProblem,
      angles: oneOf(...ANGLE_STYLES),
      hemispheres: oneOf('letters', 'sign'),
    });
    this.#options = options;
    this.#units = UNITS[options.units ?? 'metric'];
  }

  /** `44.20000° N, 33.60000° W`. Locales with decimal commas separate the two by a semicolon. */
  position(at: Position | undefined, accuracy?: number): string {
    if (at === undefined) return ABSENT;
    const divider = this.#number(0.5, 1).includes(',') ? '; ' : ', ';
    return this.angles(at, accuracy).join(divider);
  }

  /** Latitude and longitude as two texts. */
  angles(at: Position | undefined, accuracy?: number): [lat: string, lon: string] {
    if (at === undefined) return [ABSENT, ABSENT];
    const { lat, lon } = at;
    finite(lat, 'latitude');
    finite(lon, 'longitude');
    const { decimals = 5 } = this.#options;
    const places = decimals === 'auto' ? decimalsFor(accuracy) : decimals;
    return [this.#angle(lat, places, 'N', 'S'), this.#angle(lon, places, 'E', 'W')];
  }

  /** Two lines with a label each: `Latitude 44.20310° N`, `Longitude 33.58125° W`. */
  lines(
    at: Position | undefined,
    [ofLat, ofLon]: readonly [lat: string, lon: string],
    accuracy?: number,
  ): string {
    const [lat, lon] = this.angles(at, accuracy);
    return `${ofLat} ${lat}\n${ofLon} ${lon}`;
  }

  /** `640 m`, `1.32 km`, `0.82 mi`, `2.50 nmi`: three figures in the larger unit. */
  length(metres: MaybeNumber): string {
    if (metres === undefined || metres === null) return ABSENT;
    const { largeFrom, small, large } = this.#units;
    finite(metres, 'length');
    if (Math.abs(metres) < largeFrom - small.size / 2) return this.#quantity(metres, 0, small);
    const value = Math.abs(metres) / large.size;
    return this.#quantity(metres, value < 9.995 ? 2 : value < 99.95 ? 1 : 0, large);
  }

  /** `412 m`, `1,352 ft`: always in the small unit. */
  altitude(metres: MaybeNumber): string {
    if (metres === undefined || metres === null) return ABSENT;
    return this.#quantity(finite(metres, 'altitude'), 0, this.#units.small);
  }

  /** `±7 m`; the empty text when it is absent. */
  accuracy(metres: MaybeNumber): string {
    return metres === undefined || metres === null ? '' : `±${this.length(metres)}`;
  }

  /** `4.9 km/h`, `3.1 mph`, `2.7 kn`. */
  speed(metresPerSecond: MaybeNumber): string {
    if (metresPerSecond === undefined || metresPerSecond === null) return ABSENT;
    return this.#quantity(finite(metresPerSecond, 'speed'), 1, this.#units.speed);
  }

  /** `12:15 min/km`: time per kilometre, mile or nautical mile; a dash at rest. */
  pace(metresPerSecond: MaybeNumber): string {
    if (metresPerSecond === undefined || metresPerSecond === null) return ABSENT;
    const { large } = this.#units;
    finite(metresPerSecond, 'speed');
    const seconds = Math.round(large.size / metresPerSecond);
    // A pace slower than a day per kilometre is rest.
    if (!(metresPerSecond > 0 && seconds < 86_400)) return `– min/${large.sign}`;
    return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')} min/${large.sign}`;
  }

  /** `236° SW`: whole degrees and the nearest of sixteen compass points. */
  course(degrees: MaybeNumber): string {
    if (degrees === undefined || degrees === null) return ABSENT;
    const whole = Math.round(finite(degrees, 'course')) % 360;
    return `${whole}° ${compassPoint(degrees)}`;
  }

  /** Date and time with the zone: `14 May 2026, 08:00:00 UTC`. */
  time(milliseconds: MaybeNumber): string {
    return this.#date(milliseconds, {
      year: 'numeric',
      month: 'short',
      day: 'numeric',
      hour: '2-digit',
      minute: '2-digit',
      second: '2-digit',
      timeZoneName: 'short',
    });
  }

  /** The day: `14 May 2026`. */
  date(milliseconds: MaybeNumber): string {
    return this.#date(milliseconds, { year: 'numeric', month: 'short', day: 'numeric' });
  }

  /** The time of day, without its zone: `08:00:00`. */
  clock(milliseconds: MaybeNumber): string {
    return this.#date(milliseconds, { hour: '2-digit', minute: '2-digit', second: '2-digit' });
  }

  /** `1 h 4 min`: the two largest parts. */
  duration(seconds: MaybeNumber): string {
    if (seconds === undefined || seconds === null) return ABSENT;
    return durationText(finite(seconds, 'duration'));
  }

  /** Age: `1 min 5 s ago` in English, in other languages by the largest part, `vor 1 Min.`. */
  age(seconds: MaybeNumber): string {
    if (seconds === undefined || seconds === null) return ABSENT;
    finite(seconds, 'age');
    const locale = new Intl.NumberFormat(this.#options.locale).resolvedOptions().locale;
    if (/^en\b/.test(locale)) return ageText(seconds);
    if (seconds < 1) return new Intl.RelativeTimeFormat(locale, { numeric: 'auto' }).format(0, 'second');
    const parts = [
      [86_400, 'day'],
      [3600, 'hour'],
      [60, 'minute'],
      [1, 'second'],
    ] as const;
    const [size, unit] = parts.find(([each]) => seconds >= each) ?? [1, 'second'];
    return new Intl.RelativeTimeFormat(locale, { style: 'short' }).format(-Math.floor(seconds / size), unit);
  }

  #angle(degrees: number, places: number, positive: string, negative: string): string {
    const { angles = 'degrees', hemispheres = 'letters' } = this.#options;
    const size = this.#size(Math.abs(degrees), places, angles);
    const zero = !/[1-9]/.test(size);
    if (hemispheres === 'sign') return `${degrees < 0 && !zero ? '\u2212' : ''}${size}`;
    return `${size} ${degrees < 0 && !zero ? negative : positive}`;
  }

  /**
   * An angle of 0 or more. Minutes and seconds get decimals of the same size on the ground: a minute has two less than
   * the degree, a second four less. It is rounded as a whole, so no 60th minute appears.
   */
  #size(degrees: number, places: number, angles: AngleStyle): string {
    if (angles === 'degrees') return `${this.#number(degrees, places)}°`;
    const [parts, decimals] =
      angles === 'minutes' ? [60, Math.max(0, places - 2)] : [3600, Math.max(0, places - 4)];
    const all = Number(fixedDecimals(degrees * parts, decimals));
    const whole = Math.floor(all / parts);
    const rest = all - whole * parts;
    if (angles === 'minutes') return `${whole}° ${this.#padded(rest, decimals)}′`;
    const minutes = Math.floor(rest / 60);
    return `${whole}° ${String(minutes).padStart(2, '0')}′ ${this.#padded(rest - minutes * 60, decimals)}″`;
  }

  #padded(value: number, decimals: number): string {
    const zero = Number(fixedDecimals(value, decimals)) < 10 ? '0' : '';
    return zero + this.#number(value, decimals);
  }

  #quantity(value: number, decimals: number, { size, sign, intl }: Unit): string {
    return intl === undefined
      ? `${this.#number(value / size, decimals)} ${sign}`
      : this.#number(value / size, decimals, intl);
  }

  #number(value: number, decimals: number, unit?: string): string {
    const key = `${decimals} ${unit ?? ''}`;
    let format = this.#numbers.get(key);
    if (format === undefined) {
      format = new Intl.NumberFormat(this.#options.locale, {
        minimumFractionDigits: decimals,
        maximumFractionDigits: decimals,
        ...(unit !== undefined && { style: 'unit', unit }),
      });
      this.#numbers.set(key, format);
    }
    // Adding 0 turns −0 into 0.
    return format.format(Number(fixedDecimals(value, decimals)) + 0);
  }

  #date(milliseconds: MaybeNumber, parts: Intl.DateTimeFormatOptions): string {
    if (milliseconds === undefined || milliseconds === null) return ABSENT;
    finite(milliseconds, 'time');
    const key = Object.keys(parts).join(' ');
    let format = this.#dates.get(key);
    if (format === undefined) {
      const { locale, timeZone } = this.#options;
      format = new Intl.DateTimeFormat(locale, {
        ...parts,
        hourCycle: 'h23',
        ...(timeZone !== undefined && { timeZone }),
      });
      this.#dates.set(key, format);
    }
    return format.format(milliseconds);
  }
}

function finite(value: number, what: string): number {
  const problem = numberProblem(`the ${what}`, value);
  if (problem !== undefined) throw new InputError('bad-value', problem);
  return value;
}

/** Rule for a number of decimals. */
export function decimalsProblem(value: unknown): string | undefined {
  if (value === 'auto') return undefined;
  if (typeof value === 'number' && Number.isInteger(value) && value >= 0 && value <= 9) return undefined;
  return `must be a whole number of 0 to 9, or "auto", got ${formatValue(value)}`;
}

function localeProblem(value: string): string | undefined {
  try {
    return Intl.getCanonicalLocales(value).length === 1 ? undefined : 'must be one tag';
  } catch {
    return `"${value}" is not a language tag, like en or de-AT`;
  }
}

function timeZoneProblem(value: string): string | undefined {
  try {
    new Intl.DateTimeFormat('en', { timeZone: value });
    return undefined;
  } catch {
    return `"${value}" is not a time zone, like UTC or Etc/GMT+1`;
  }
}

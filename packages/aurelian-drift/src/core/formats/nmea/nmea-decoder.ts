import { RADIUS_IN_DEVIATIONS, confidenceFactors } from '../../fix/confidence.js';
import type { Fix, Origin, RawFix } from '../../fix/fix.js';
import { salvage } from '../../fix/salvage.js';
import type { LinePoint } from '../../trail/line.js';
import { decimalOf } from '../decimal.js';
import { degreesOf, sentenceIn, timeOfDay } from './nmea-sentence.js';
import { dayNumber } from '../time.js';
import type { Note } from '../track-sink.js';

const DAY = 86_400_000;
const KNOT = 1852 / 3600;
const { altitude: ALTITUDE_FACTOR } = confidenceFactors(68);
/** Maximum characters of a line. */
const LONGEST_LINE = 4096;
/** Maximum number of fixes that wait for a date. */
const MAX_UNDATED = 100_000;

/** Result of the decoder. */
export interface NmeaSink {
  fix(fix: Fix): void;
  /** The receiver had no fix for a while. */
  gap(): void;
  /** Points without a date, in runs without a gap. */
  undated(parts: readonly (readonly LinePoint[])[], line: number): void;
  note(note: Note): void;
}

/** Content of the sentences of one time. */
interface Epoch {
  /** Milliseconds since midnight UTC. */
  readonly clock: number;
  readonly line: number;
  lat: number;
  lon: number;
  altitude: number;
  speed: number;
  course: number;
  accuracy: number;
  altitudeAccuracy: number;
  origin: Origin;
  /**
   * A sentence states that there is no fix; the position of another counts more, as when one of two systems has none.
   */
  none: boolean;
}

/**
 * Decodes NMEA 0183 (IEC 61162-1) text in pieces to fixes: RMC, GGA, GNS, GLL, VTG, ZDA and GST of any talker;
 * sentences of one time are merged. A fix is complete when a sentence of another time arrives, or when `flush` is
 * called.
 *
 * The date is that of RMC or ZDA; where a time goes back by more than half a day without one, midnight has passed.
 * Fixes before the first date are dated backwards from it.
 */
export class NmeaDecoder {
  readonly #sink: NmeaSink;
  #pending = '';
  #line = 0;
  #epoch: Epoch | undefined;
  /** Midnight of the date, milliseconds since 1970 UTC; NaN before the first date. */
  #midnight = NaN;
  /** Time of day of the last epoch. */
  #clock = NaN;
  /** Epochs that wait for a date; `undefined` for a break between them. */
  #undated: (Epoch | undefined)[] = [];
  #sentences = 0;
  /** Whether sentences have checksums; then one without is truncated. Old receivers write none. */
  #checked = false;

  constructor(sink: NmeaSink) {
    this.#sink = sink;
  }

  write(text: string): void {
    const lines = (this.#pending + text).split(/\r\n|\n|\r/);
    this.#pending = lines.pop() ?? '';
    for (const line of lines) this.#take(line);
    if (this.#pending.length > LONGEST_LINE) {
      this.#note('a line of over 4096 characters left out', this.#line + 1);
      // Its end is still to come, and is not a sentence without its start.
      this.#pending = '';
    }
  }

  end(): void {
    if (this.#pending !== '') this.#take(this.#pending);
    this.#pending = '';
    this.#close();
    if (Number.isNaN(this.#midnight)) this.#tellLine();
    if (this.#sentences === 0) this.#note('there is no sentence with a position', 1);
  }

  /** No more sentences of this time are expected: its fix is complete. Later ones are ignored. */
  flush(): void {
    this.#close();
  }

  #take(line: string): void {
    this.#line++;
    const sentence = sentenceIn(line);
    if (sentence === undefined) {
      if (line.trim() !== '' && !line.startsWith('!')) this.#note('a line without a sentence left out');
      return;
    }
    if ('problem' in sentence) {
      this.#note(`${sentence.problem}; left out`);
      return;
    }
    const { type, fields, checked } = sentence;
    if (!checked && this.#checked) {
      this.#note('a sentence without its checksum, unlike those before; left out');
      return;
    }
    this.#checked ||= checked;
    const take = Object.hasOwn(TAKES, type) ? TAKES[type] : undefined;
    if (take === undefined || sentence.talker === 'P') return;
    this.#sentences++;
    const clock = timeOfDay(fields[CLOCK_FIELD[type] ?? -1]);
    if (Number.isNaN(clock) && PLACING.has(type)) {
      // A receiver that has just been switched on knows neither the position nor the time.
      this.#close();
      this.#break();
      return;
    }
    // The open time, or one that was flushed, continues.
    if (!Number.isNaN(clock) && clock !== this.#clock) this.#open(clock);
    if (this.#epoch === undefined) return;
    const date = take(this.#epoch, fields);
    if (date !== undefined && !Number.isNaN(date)) this.#date(date);
  }

  #open(clock: number): void {
    this.#close();
    // Midnight has passed, unless a sentence states the date.
    if (this.#clock - clock > DAY / 2) this.#midnight += DAY;
    this.#clock = clock;
    this.#epoch = {
      clock,
      line: this.#line,
      lat: NaN,
      lon: NaN,
      altitude: NaN,
      speed: NaN,
      course: NaN,
      accuracy: NaN,
      altitudeAccuracy: NaN,
      origin: 'unknown',
      none: false,
    };
  }

  /** The sentences of a time are complete. */
  #close(): void {
    const epoch = this.#epoch;
    this.#epoch = undefined;
    if (epoch === undefined) return;
    if (Number.isNaN(epoch.lat) || Number.isNaN(epoch.lon)) {
      if (epoch.none) this.#break();
    } else if (Number.isNaN(this.#midnight)) {
      this.#undated.push(epoch);
      if (this.#undated.length > MAX_UNDATED) this.#tellLine();
    } else this.#fix(epoch, this.#midnight);
  }

  #break(): void {
    if (Number.isNaN(this.#midnight)) {
      if (this.#undated.at(-1) !== undefined) this.#undated.push(undefined);
    } else this.#sink.gap();
  }

  #date(midnight: number): void {
    const first = Number.isNaN(this.#midnight);
    this.#midnight = midnight;
    if (!first) return;
    // Backwards from the first date: each step forward in time of day is a midnight.
    let day = midnight;
    let later = this.#epoch?.clock ?? 0;
    const dated = this.#undated.toReversed().map((epoch) => {
      if (epoch !== undefined && epoch.clock > later) day -= DAY;
      later = epoch?.clock ?? later;
      return { epoch, day };
    });
    this.#undated = [];
    for (const { epoch, day: own } of dated.reverse()) {
      if (epoch === undefined) this.#sink.gap();
      else this.#fix(epoch, own);
    }
  }

  #fix(epoch: Epoch, midnight: number): void {
    const { clock, line, lat, lon, altitude, speed, course, accuracy, altitudeAccuracy, origin } = epoch;
    const raw: RawFix = {
      time: midnight + clock,
      lat,
      lon,
      speed,
      course,
      accuracy,
      altitudeAccuracy,
      origin,
      ...(!Number.isNaN(altitude) && { altitude, altitudeDatum: 'sea' }),
    };
    const { fix, problems } = salvage(raw);
    if (fix !== undefined) this.#sink.fix(fix);
    for (const problem of problems) this.#note(`${problem}; left out`, line);
  }

  /** Points without a date are a line: a day cannot be invented. */
  #tellLine(): void {
    const parts: LinePoint[][] = [[]];
    for (const epoch of this.#undated) {
      if (epoch === undefined) parts.push([]);
      else {
        const { lat, lon, altitude } = epoch;
        parts.at(-1)?.push({ lat, lon, ...(!Number.isNaN(altitude) && { altitude }) });
      }
    }
    const [first] = this.#undated.filter((epoch) => epoch !== undefined);
    this.#undated = [];
    const whole = parts.filter((part) => part.length > 0);
    if (whole.length === 0) return;
    this.#sink.undated(whole, first?.line ?? 1);
  }

  #note(text: string, line = this.#line): void {
    this.#sink.note({ line, text });
  }
}

/** Takes the content of a sentence into the epoch; returns the midnight of its date when it has one. */
type Take = (epoch: Epoch, fields: readonly string[]) => number | undefined;

/** Field with the time. */
const CLOCK_FIELD: Readonly<Record<string, number>> = { RMC: 0, GGA: 0, GNS: 0, GLL: 4, ZDA: 0, GST: 0 };

/** Sentences with a position, or the statement that there is none. */
const PLACING: ReadonlySet<string> = new Set(['RMC', 'GGA', 'GNS', 'GLL']);

const TAKES: Readonly<Record<string, Take>> = {
  RMC(epoch, [, status, lat, latLetter, lon, lonLetter, speed, course, date, , , mode]) {
    if (status === 'A') {
      place(epoch, lat, latLetter, lon, lonLetter);
      epoch.speed = firstOf(epoch.speed, decimalOf(speed) * KNOT);
      epoch.course = firstOf(epoch.course, decimalOf(course));
      epoch.origin = originOf(mode) ?? epoch.origin;
    } else epoch.none = true;
    const match = /^(\d\d)(\d\d)(\d\d)$/.exec(date ?? '');
    if (match === null) return undefined;
    const year = Number(match[3]);
    // Two digits of the year: satellites have given positions since 1980.
    return DAY * dayNumber(year < 80 ? 2000 + year : 1900 + year, Number(match[2]), Number(match[1]));
  },
  GGA(epoch, [, lat, latLetter, lon, lonLetter, quality, , , altitude, unit]) {
    if (quality === '0') epoch.none = true;
    else {
      place(epoch, lat, latLetter, lon, lonLetter);
      if (unit === 'M') epoch.altitude = firstOf(epoch.altitude, decimalOf(altitude));
      epoch.origin = QUALITIES[quality ?? ''] ?? epoch.origin;
    }
    return undefined;
  },
  GNS(epoch, [, lat, latLetter, lon, lonLetter, modes, , , altitude]) {
    if (/^N*$/.test(modes ?? '')) epoch.none = true;
    else {
      place(epoch, lat, latLetter, lon, lonLetter);
      epoch.altitude = firstOf(epoch.altitude, decimalOf(altitude));
      epoch.origin = originOf((modes ?? '').replaceAll('N', '')[0]) ?? epoch.origin;
    }
    return undefined;
  },
  GLL(epoch, [lat, latLetter, lon, lonLetter, , status]) {
    if (status === 'V') epoch.none = true;
    else place(epoch, lat, latLetter, lon, lonLetter);
    return undefined;
  },
  VTG(epoch, [course, , , , knots, , kmh]) {
    epoch.course = firstOf(epoch.course, decimalOf(course));
    epoch.speed = firstOf(firstOf(epoch.speed, decimalOf(knots) * KNOT), decimalOf(kmh) / 3.6);
    return undefined;
  },
  ZDA(_epoch, [, day, month, year]) {
    return DAY * dayNumber(Number(year), Number(month), Number(day));
  },
  GST(epoch, [, , , , , north, east, up]) {
    const spread = Math.hypot(decimalOf(north), decimalOf(east)) / Math.SQRT2;
    epoch.accuracy = firstOf(epoch.accuracy, spread * RADIUS_IN_DEVIATIONS);
    epoch.altitudeAccuracy = firstOf(epoch.altitudeAccuracy, decimalOf(up) * ALTITUDE_FACTOR);
    return undefined;
  },
};

/** Field 6 of GGA: 1 to 5 are satellites, 6 is dead reckoning, which is not a known origin. */
const QUALITIES: Readonly<Record<string, Origin>> = {
  1: 'satellite',
  2: 'satellite',
  3: 'satellite',
  4: 'satellite',
  5: 'satellite',
  7: 'manual',
  8: 'simulated',
};

/** Mode of RMC and GNS. */
function originOf(mode: string | undefined): Origin | undefined {
  if (mode === undefined || mode === '') return undefined;
  if ('ADFPR'.includes(mode)) return 'satellite';
  return mode === 'M' ? 'manual' : mode === 'S' ? 'simulated' : undefined;
}

function place(
  epoch: Epoch,
  lat: string | undefined,
  latLetter: string | undefined,
  lon: string | undefined,
  lonLetter: string | undefined,
): void {
  epoch.lat = firstOf(epoch.lat, degreesOf(lat, latLetter));
  epoch.lon = firstOf(epoch.lon, degreesOf(lon, lonLetter));
}

/** The sentences of a time agree; otherwise the first is used. */
function firstOf(known: number, reported: number): number {
  return Number.isNaN(known) ? reported : known;
}

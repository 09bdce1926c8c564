import { checkOptions, numberFrom, oneOf } from '../check/options.js';
import { RADIUS_IN_DEVIATIONS } from '../fix/confidence.js';
import { fixFrom, type Fix } from '../fix/fix.js';
import { ahead } from '../geodesy/ahead.js';
import { DEGREES, wrapBearing } from '../geodesy/wgs84.js';
import type { Line, LinePoint } from '../trail/line.js';
import { GAIT_NAMES, type Gait } from './gait.js';
import { Itinerary, type Station } from './itinerary.js';
import { randomFrom, type Random } from './random.js';
import {
  RECEPTION_NAMES,
  ReceptionModel,
  UPRIGHT,
  type Reception,
  type ReceptionError,
} from './reception.js';
import { Stride, type RestFigures } from './stride.js';

/** Options of `journey` and `standstill`. */
export interface JourneyOptions {
  /** Way of moving. Default `walk`. */
  readonly gait?: Gait;
  /** Seconds between fixes, 0.05 to 3600. Default 1. */
  readonly every?: number;
  /** Rests on the way: their seconds, and the metres between them; each varies by up to half. Default: none. */
  readonly rests?: RestFigures;
  /** Conditions of reception. Default `open`. */
  readonly reception?: Reception;
  /** Seed of the random numbers; the same seed gives the same journey. Default 1. */
  readonly seed?: number;
  /** Time of the first fix, milliseconds since 1970 UTC. Default: 2026-05-14T08:00:00Z. */
  readonly start?: number;
}

/** One moment of a journey: the true position, and the resulting fix, if there is one. */
export interface Moment {
  readonly truth: Fix;
  readonly fix: Fix | undefined;
}

const DEFAULT_START = Date.UTC(2026, 4, 14, 8);

/** Checked options of a journey. */
export function checkJourney(options: {
  readonly [Key in keyof JourneyOptions]: JourneyOptions[Key] | undefined;
}): void {
  checkOptions('a journey', options, {
    gait: oneOf(...GAIT_NAMES),
    every: numberFrom(0.05, 3600, 'seconds'),
    reception: oneOf(...RECEPTION_NAMES),
    seed: numberFrom(-Number.MAX_SAFE_INTEGER, Number.MAX_SAFE_INTEGER, ''),
    start: numberFrom(0, Date.UTC(2200, 0, 1), 'milliseconds since 1970'),
    rests: resting,
  });
}

/** Problem with the place of a standstill; `undefined` when there is none. */
export function resting(value: unknown): string | undefined {
  if (typeof value !== 'object' || value === null) return 'must be { every: metres, for: seconds }';
  checkOptions('rests', value, {
    every: numberFrom(10, 1e6, 'metres'),
    for: numberFrom(1, 1e6, 'seconds'),
  });
  const { every, for: seconds } = value as Partial<RestFigures>;
  return every === undefined || seconds === undefined
    ? 'needs both every, in metres, and for, in seconds'
    : undefined;
}

/**
 * A user who goes along a line once, from its first point to its last, with the fixes of a receiver. Ends at the
 * arrival.
 */
export function* journey(line: Line, options: JourneyOptions = {}): Generator<Moment> {
  checkJourney(options);
  const { gait = 'walk', every = 1, seed = 1, rests } = options;
  const itinerary = new Itinerary(line);
  const stride = new Stride(itinerary, gait, randomFrom(seed * 2), rests);
  const witness = new Witness(options);
  while (stride.metres < itinerary.length) {
    yield witness.see(itinerary.at(stride.metres), stride.speed);
    stride.advance(every);
  }
  yield witness.see(itinerary.at(stride.metres), 0);
}

/** A user who stays at one place, with the fixes of a receiver, without end. */
export function* standstill(at: LinePoint, options: JourneyOptions = {}): Generator<Moment> {
  checkJourney(options);
  const witness = new Witness(options);
  const { lat, lon, altitude } = at;
  const station = { lat, lon, course: NaN, ...(altitude !== undefined && { altitude }) };
  for (;;) yield witness.see(station, 0);
}

/** Converts the points of a journey, one tick after the other, to moments. */
class Witness {
  readonly #every: number;
  readonly #start: number;
  readonly #noise: Random;
  readonly #model: ReceptionModel;
  #tick = 0;

  constructor({ every = 1, start = DEFAULT_START, seed = 1, reception = 'open' }: JourneyOptions) {
    this.#every = every;
    this.#start = start;
    // Separate random numbers, so that another reception leaves the walk itself unchanged.
    this.#noise = randomFrom(seed * 2 + 1);
    this.#model = new ReceptionModel(reception, this.#noise);
  }

  see(station: Station, speed: number): Moment {
    const seconds = this.#tick++ * this.#every;
    const time = this.#start + seconds * 1000;
    const error = this.#model.next(seconds);
    return {
      truth: fixFrom({ time, ...station, speed, origin: 'simulated', ...datumOf(station) }),
      fix: error === undefined ? undefined : observed(time, station, speed, error, this.#noise),
    };
  }
}

/** The fix of a receiver at a point, with its error. */
function observed(time: number, at: Station, speed: number, error: ReceptionError, noise: Random): Fix {
  const metres = Math.hypot(error.east, error.north);
  const seen = metres === 0 ? at : ahead(at, Math.atan2(error.east, error.north) * DEGREES, metres);
  const exact = error.accuracy === 0;
  // Speed comes from the phase of the carrier and is far more exact than the difference of two positions.
  const seenSpeed = exact ? speed : Math.max(0, speed + 0.08 * noise.normal());
  const moving = seenSpeed > 0.3 && !Number.isNaN(at.course);
  return fixFrom({
    time,
    lat: exact ? seen.lat : rounded(seen.lat, 9),
    lon: exact ? seen.lon : rounded(seen.lon, 9),
    accuracy: rounded(error.accuracy, 1),
    ...(at.altitude !== undefined && {
      altitude: rounded(at.altitude + error.up, 1),
      altitudeAccuracy: rounded(error.accuracy * UPRIGHT * (1.96 / RADIUS_IN_DEVIATIONS), 1),
      ...datumOf(at),
    }),
    ...(moving && {
      course: rounded(wrapBearing(at.course + (exact ? 0 : (4 * noise.normal()) / seenSpeed)), 1),
    }),
    speed: rounded(seenSpeed, 2),
    origin: 'simulated',
  });
}

/** Heights of an invented line are above its sea. */
function datumOf(at: LinePoint): { altitudeDatum?: 'sea' } {
  return at.altitude === undefined ? {} : { altitudeDatum: 'sea' };
}

function rounded(value: number, decimals: number): number {
  return Number(value.toFixed(decimals));
}

import { checkOptions, numberFrom, oneOf } from '../check/options.js';
import { RADIUS_IN_DEVIATIONS } from '../fix/confidence.js';
import { fixFrom, type Fix } from '../fix/fix.js';
import { offsetTo } from '../estimate/local-offset.js';
import { ahead } from '../geodesy/ahead.js';
import { DEGREES, wrapBearing } from '../geodesy/wgs84.js';
import { routeFrom, type RouteGiven } from '../formats/route-from.js';
import type { LinePoint } from '../trail/line.js';
import { GAIT_NAMES, type Gait } from './gait.js';
import { Itinerary, type Station } from './itinerary.js';
import { randomFrom, type Random } from './random.js';
import { UPRIGHT, type ReceptionError, type ReceptionModel } from './reception.js';
import { RECEPTION_NAMES, receptionModel, type Reception } from './receptions.js';
import {
  ACCURACY_STATEMENTS,
  SPEED_STATEMENTS,
  statedAccuracy,
  type AccuracyStatement,
  type SpeedStatement,
} from './statement.js';
import { Stride, type RestFigures } from './stride.js';

/** Options of `journey` and `standstill`. */
export interface JourneyOptions {
  /** Way of moving. Default `walk`. */
  readonly gait?: Gait;
  /** Seconds between fixes, 0.05 to 3600. Default 1. */
  readonly every?: number;
  /** Greatest seconds between fixes, which then vary evenly from `every` to this. Default: they do not vary. */
  readonly everyUpTo?: number;
  /** Rests on the way: their seconds, and the metres between them; each varies by up to half. Default: none. */
  readonly rests?: RestFigures;
  /** Conditions of reception. Default `open`. */
  readonly reception?: Reception;
  /** What the receiver states of its accuracy. Default `true`: the radius of 95 %. */
  readonly statedAccuracy?: AccuracyStatement;
  /** What the receiver states of speed and course. Default `true`: what it measures. */
  readonly statedSpeed?: SpeedStatement;
  /** Radii of 95 % in metres of first fixes that come from the network, without speed and height. Default: none. */
  readonly networkFirst?: readonly number[];
  /** Metres along the route at which a journey begins, not negative. Default 0. */
  readonly from?: number;
  /** Seed of the random numbers; the same seed gives the same journey. Default 1. */
  readonly seed?: number;
  /** Time of the first fix, milliseconds since 1970 UTC. Default: 2026-05-14T08:00:00Z. */
  readonly start?: number;
}

/** One moment of a journey: the true position, and the resulting fix, if there is one. */
export interface Moment {
  readonly truth: Fix;
  readonly fix: Fix | undefined;
  /** Metres along the route; absent at a standstill. */
  readonly along?: number;
}

const DEFAULT_START = Date.UTC(2026, 4, 14, 8);

/** Rules of the options of a journey. */
export const JOURNEY_RULES = {
  gait: oneOf(...GAIT_NAMES),
  every: numberFrom(0.05, 3600, 'seconds'),
  everyUpTo: numberFrom(0.05, 3600, 'seconds'),
  statedAccuracy: oneOf(...ACCURACY_STATEMENTS),
  statedSpeed: oneOf(...SPEED_STATEMENTS),
  networkFirst: radii,
  reception: oneOf(...RECEPTION_NAMES),
  seed: numberFrom(-Number.MAX_SAFE_INTEGER, Number.MAX_SAFE_INTEGER, ''),
  rests: resting,
};

/** The options of a journey among others. */
export function journeyOptionsOf(options: JourneyOptions): JourneyOptions {
  return Object.fromEntries(
    Object.entries(options).filter(([name, value]) => name in JOURNEY_RULES && value !== undefined),
  );
}

function checkJourney(options: JourneyOptions): void {
  checkOptions('a journey', options, {
    ...JOURNEY_RULES,
    from: numberFrom(0, 1e8, 'metres'),
    start: numberFrom(0, Date.UTC(2200, 0, 1), 'milliseconds since 1970'),
  });
}

/** Problem with the radii of network fixes; `undefined` when there is none. */
function radii(value: unknown): string | undefined {
  const right = Array.isArray(value) && value.every((radius) => typeof radius === 'number' && radius > 0);
  return right ? undefined : 'must be a list of radii above 0, in metres';
}

/** Problem with the rests of a journey; `undefined` when there is none. */
function resting(value: unknown): string | undefined {
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
 * A user who goes along a route once, from its first point to its last, with the fixes of a receiver. Ends at the
 * arrival.
 */
export function* journey(route: RouteGiven, options: JourneyOptions = {}): Generator<Moment> {
  checkJourney(options);
  const { gait = 'walk', seed = 1, rests, from = 0 } = options;
  const itinerary = new Itinerary(routeFrom(route));
  const stride = new Stride(itinerary, gait, randomFrom(seed * 2), rests, from);
  const witness = new Witness(options);
  while (stride.metres < itinerary.length) {
    yield { ...witness.see(itinerary.at(stride.metres), stride.speed), along: stride.metres };
    stride.advance(witness.step());
  }
  yield { ...witness.see(itinerary.at(stride.metres), 0), along: itinerary.length };
}

/** A user who stays at one place, with the fixes of a receiver, without end. */
export function* standstill(at: LinePoint, options: JourneyOptions = {}): Generator<Moment> {
  checkJourney(options);
  const witness = new Witness(options);
  const { lat, lon, altitude } = at;
  const station = { lat, lon, course: NaN, ...(altitude !== undefined && { altitude }) };
  for (;;) {
    yield witness.see(station, 0);
    witness.step();
  }
}

/** Converts the points of a journey, one tick after the other, to moments. */
class Witness {
  readonly #every: number;
  readonly #everyUpTo: number;
  readonly #start: number;
  readonly #noise: Random;
  readonly #steps: Random;
  readonly #model: ReceptionModel;
  readonly #statement: Statement;
  readonly #network: readonly number[];
  #seconds = 0;
  #tick = 0;
  #last: Station | undefined;

  constructor({
    every = 1,
    everyUpTo = every,
    start = DEFAULT_START,
    seed = 1,
    reception = 'open',
    statedAccuracy: accuracy = 'true',
    statedSpeed: speed = 'true',
    networkFirst = [],
  }: JourneyOptions) {
    this.#every = every;
    this.#everyUpTo = Math.max(every, everyUpTo);
    this.#start = start;
    this.#statement = { accuracy, speed };
    this.#network = networkFirst;
    // Separate random numbers, so that another reception leaves the walk itself unchanged.
    this.#noise = randomFrom(seed * 2 + 1);
    this.#steps = randomFrom(seed * 2 + 1e6);
    this.#model = receptionModel(reception, this.#noise);
  }

  /** Seconds to the next moment. */
  step(): number {
    const varied = this.#everyUpTo - this.#every;
    const step =
      varied === 0 ? this.#every : this.#every + Math.round(1000 * varied * this.#steps.uniform()) / 1000;
    this.#tick++;
    // A product of whole numbers gathers no rounding errors.
    this.#seconds = varied === 0 ? this.#tick * this.#every : this.#seconds + step;
    return step;
  }

  see(station: Station, speed: number): Moment {
    const time = this.#start + this.#seconds * 1000;
    const error = this.#model.next(this.#seconds, offsetTo(this.#last ?? station, station));
    this.#last = station;
    const radius = this.#network[this.#tick];
    const fix =
      radius === undefined
        ? error && observed(time, station, speed, error, this.#noise, this.#statement)
        : networkFix(time, station, radius, this.#noise);
    return {
      truth: fixFrom({ time, ...station, speed, origin: 'simulated', ...datumOf(station) }),
      fix,
    };
  }
}

interface Statement {
  readonly accuracy: AccuracyStatement;
  readonly speed: SpeedStatement;
}

/** A fix from the network: far off, without speed, course and height. */
function networkFix(time: number, at: Station, radius: number, noise: Random): Fix {
  const spread = radius / RADIUS_IN_DEVIATIONS;
  const [east, north] = [spread * noise.normal(), spread * noise.normal()];
  const seen = ahead(at, Math.atan2(east, north) * DEGREES, Math.hypot(east, north));
  return fixFrom({
    time,
    lat: rounded(seen.lat, 9),
    lon: rounded(seen.lon, 9),
    accuracy: radius,
    origin: 'simulated',
  });
}

/** The fix of a receiver at a point, with its error. */
function observed(
  time: number,
  at: Station,
  speed: number,
  error: ReceptionError,
  noise: Random,
  statement: Statement,
): Fix {
  const metres = Math.hypot(error.east, error.north);
  const seen = metres === 0 ? at : ahead(at, Math.atan2(error.east, error.north) * DEGREES, metres);
  const exact = error.accuracy === 0;
  // Speed comes from the phase of the carrier and is far more exact than the difference of two positions.
  const seenSpeed = exact ? speed : Math.max(0, speed + 0.08 * noise.normal());
  const moving = seenSpeed > 0.3 && !Number.isNaN(at.course) && statement.speed === 'true';
  const accuracy = statedAccuracy(error.accuracy, statement.accuracy);
  const upSpread = error.upSpread ?? (error.accuracy * UPRIGHT) / RADIUS_IN_DEVIATIONS;
  return fixFrom({
    time,
    lat: exact ? seen.lat : rounded(seen.lat, 9),
    lon: exact ? seen.lon : rounded(seen.lon, 9),
    ...(accuracy !== undefined && { accuracy: rounded(accuracy, 1) }),
    ...(at.altitude !== undefined && {
      altitude: rounded(at.altitude + error.up, 1),
      ...(accuracy !== undefined && { altitudeAccuracy: rounded(1.96 * upSpread, 1) }),
      ...datumOf(at),
    }),
    ...(moving && {
      course: rounded(wrapBearing(at.course + (exact ? 0 : (4 * noise.normal()) / seenSpeed)), 1),
    }),
    ...(statement.speed !== 'absent' && {
      speed: statement.speed === 'zero' ? 0 : rounded(seenSpeed, 2),
    }),
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

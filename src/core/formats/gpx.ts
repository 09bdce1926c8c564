import { InputError } from '../check/input-error.js';
import {
  DATUMS,
  MARKS,
  ORIGINS,
  fixFault,
  fixOf,
  type AltitudeDatum,
  type Fix,
  type Mark,
  type Origin,
  type RawFix,
} from '../fix/fix.js';
import type { Line, LinePoint, Waypoint } from '../trail/line.js';
import { Trail, kindsOf } from '../trail/trail.js';
import { GpxReader, type GpxPoint, type GpxSink } from './gpx-reader.js';

/** Something in a file that was passed over, and at which line. */
export interface Note {
  readonly line: number;
  readonly text: string;
}

/** What a GPX file held. */
export interface GpxDocument {
  readonly name?: string;
  /** Tracks with times. */
  readonly trails: readonly Trail[];
  /** Tracks whose points have no times at all. */
  readonly lines: readonly Line[];
  readonly routes: readonly Line[];
  readonly waypoints: readonly Waypoint[];
  readonly notes: readonly Note[];
}

/**
 * Reads a GPX document that is in memory.
 *
 * A track with times is a Trail, one without any is a Line. In a track with times, a point without a
 * usable one is left out and noted, since no time can be made up for it.
 *
 * @param source a name for the text in errors, usually the file's.
 * @throws {InputError} with source and line.
 */
export function readGpx(text: string, source?: string): GpxDocument {
  const gatherer = new DocumentGatherer();
  const reader = new GpxReader(gatherer, source);
  if (text.trim() === '') {
    throw new InputError('cut-short', 'the file is empty', source === undefined ? {} : { source, line: 1 });
  }
  reader.write(text);
  reader.end();
  return gatherer.document;
}

interface OpenTrack {
  labels: { name?: string; description?: string };
  /** Made with the first point that has a time. */
  trail: Trail | undefined;
  /** Points without a time: all of the track, when it turns out to be a line. */
  points: LinePoint[][];
  /** Points without a time: the line of the first, and how many. */
  untimed: { line: number; count: number } | undefined;
}

class DocumentGatherer implements GpxSink {
  #name: string | undefined;
  readonly #trails: Trail[] = [];
  readonly #lines: Line[] = [];
  readonly #routes: Line[] = [];
  readonly #waypoints: Waypoint[] = [];
  readonly #notes: Note[] = [];
  #track: OpenTrack = openTrack();
  #route: { name?: string; points: LinePoint[] } = { points: [] };

  get document(): GpxDocument {
    return {
      ...(this.#name !== undefined && { name: this.#name }),
      trails: this.#trails,
      lines: this.#lines,
      routes: this.#routes,
      waypoints: this.#waypoints,
      notes: this.#notes,
    };
  }

  trackStart(): void {
    this.#track = openTrack();
  }

  label(of: 'track' | 'route' | 'file', kind: 'name' | 'description', text: string): void {
    if (of === 'track') this.#track.labels[kind] ??= text;
    else if (of === 'route' && kind === 'name') this.#route.name ??= text;
    else if (of === 'file' && kind === 'name') this.#name ??= text;
  }

  segmentStart(): void {
    this.#track.trail?.breakSegment();
    this.#track.points.push([]);
  }

  trackPoint(point: GpxPoint): void {
    const track = this.#track;
    if (Number.isNaN(point.time)) {
      track.untimed = { line: track.untimed?.line ?? point.line, count: (track.untimed?.count ?? 0) + 1 };
      if (track.points.length === 0) track.points.push([]);
      track.points.at(-1)?.push(linePoint(point));
      return;
    }
    // The name comes before the points in the standard's order.
    track.trail ??= new Trail(track.labels);
    const kinds = kindsIfPlain(point);
    if (kinds !== undefined) {
      const { time, lat, lon, accuracy, altitude, altitudeAccuracy, course, speed } = point;
      track.trail.appendNumbers(
        time,
        lat + 0,
        lon + 0,
        accuracy,
        altitude,
        altitudeAccuracy,
        course,
        speed,
        kinds,
        0,
      );
    } else {
      track.trail.append(this.#fix(point));
    }
  }

  trackEnd(): void {
    const { labels, trail, points, untimed } = this.#track;
    if (trail !== undefined) {
      this.#trails.push(trail);
      if (untimed !== undefined) {
        const { line, count } = untimed;
        this.#notes.push({
          line,
          text: `${count} ${count === 1 ? 'point' : 'points'} without a time left out`,
        });
      }
    } else if (points.some((run) => run.length > 0)) {
      this.#lines.push({ ...nameOf(labels.name), parts: points.filter((run) => run.length > 0) });
    }
  }

  routeStart(): void {
    this.#route = { points: [] };
  }

  routePoint(point: GpxPoint): void {
    this.#route.points.push(linePoint(point));
  }

  routeEnd(): void {
    if (this.#route.points.length > 0)
      this.#routes.push({ ...nameOf(this.#route.name), parts: [this.#route.points] });
  }

  waypoint(point: GpxPoint): void {
    this.#waypoints.push({
      ...linePoint(point),
      ...nameOf(point.name),
      ...(point.description !== undefined && { description: point.description }),
      ...(!Number.isNaN(point.time) && { time: point.time }),
    });
  }

  /** The fix of a track point; an impossible value beside a possible position is left out and noted. */
  #fix(point: GpxPoint): Fix {
    const { time, lat, lon, accuracy, altitude, altitudeAccuracy, course, speed } = point;
    const raw: RawFix = {
      time,
      lat,
      lon,
      accuracy,
      altitude,
      altitudeAccuracy,
      course,
      speed,
      altitudeDatum: DATUMS.find((datum) => datum === point.altitudeDatum),
      origin: ORIGINS.find((origin) => origin === point.origin),
      marks: (point.marks ?? '')
        .split(' ')
        .filter((mark): mark is Mark => (MARKS as readonly string[]).includes(mark)),
    };
    const fault = fixFault(raw);
    if (fault === undefined) return fixOf(raw);
    if (fault.startsWith('time')) throw new InputError('impossible-fix', fault, { line: point.line });
    this.#notes.push({ line: point.line, text: `${fault}; left out` });
    const bare: RawFix = { time, lat, lon };
    const kept = Object.entries(raw).filter(
      ([key, value]) => fixFault({ ...bare, [key]: value as unknown }) === undefined,
    );
    return fixOf({ ...bare, ...Object.fromEntries(kept) });
  }
}

function openTrack(): OpenTrack {
  return { labels: {}, trail: undefined, points: [], untimed: undefined };
}

/**
 * Origin and datum in one byte when the checks at the border would change nothing of a point: the way of nearly all,
 * without an object each.
 */
function kindsIfPlain(point: GpxPoint): number | undefined {
  const { time, accuracy, altitude, altitudeAccuracy, course, speed, altitudeDatum, origin, marks } = point;
  const plain =
    time > PLAIN_FROM &&
    time < PLAIN_TO &&
    !(accuracy < 0 || accuracy > 1e9) &&
    !(altitude < -1e6 || altitude > 1e8) &&
    !(altitudeAccuracy < 0 || altitudeAccuracy > 1e9 || (Number.isNaN(altitude) && altitudeAccuracy >= 0)) &&
    !(course < 0 || course >= 360 || (course >= 0 && speed === 0)) &&
    !(speed < 0 || speed > 1e6) &&
    marks === undefined;
  if (!plain) return undefined;
  if (altitudeDatum === undefined && origin === undefined) return 0;
  const index = Math.max(0, ORIGINS.indexOf(origin as Origin));
  if (Number.isNaN(altitude)) return index;
  return kindsOf(
    ORIGINS[index] as Origin,
    DATUMS[Math.max(0, DATUMS.indexOf(altitudeDatum as AltitudeDatum))],
  );
}
const PLAIN_FROM = Date.UTC(1980, 0, 1);
const PLAIN_TO = Date.UTC(2190, 0, 1);

function linePoint({ lat, lon, altitude }: GpxPoint): LinePoint {
  return { lat, lon, ...(!Number.isNaN(altitude) && { altitude }) };
}

function nameOf(name: string | undefined): { name?: string } {
  return name === undefined ? {} : { name };
}

import { DATUMS, ORIGINS, type AltitudeDatum, type Origin } from '../../fix/fix.js';
import { salvage } from '../../fix/salvage.js';
import { MAX_KEYS } from '../../trail/extras.js';
import type { LinePoint } from '../../trail/line.js';
import { appendNumbers, kindsOf, type TrailLabels } from '../../trail/trail.js';
import { knownWords } from '../fix-columns.js';
import { gpxKey } from './gpx-extras.js';
import { GpxReader, type GpxPoint, type GpxSink } from './gpx-reader.js';
import { gather, type ReadOptions, type TrackDocument } from '../track-document.js';
import { TrailPieces, type ReaderOptions, type TrackReader, type TrackSink } from '../track-sink.js';

/**
 * Reads a GPX document, 1.1 or 1.0, that is in memory.
 *
 * A track with times is a trail, one without any is a line. In a track with times, a point without a valid time is left
 * out with a note, because a time cannot be invented.
 *
 * @throws {InputError} with source and line.
 */
export function readGpx(text: string, options: ReadOptions = {}): TrackDocument {
  return gather('readGpx', text, options, (sink, source) => gpxReader(sink, { source }));
}

/** A reader of GPX that passes its content to a sink; trails in pieces of `pieceSize` fixes when it is given. */
export function gpxReader(sink: TrackSink, { source, pieceSize }: ReaderOptions = {}): TrackReader {
  return new GpxReader(new GpxTracks(sink, pieceSize), source);
}

/** Converts GPX to trails, lines and waypoints. */
class GpxTracks implements GpxSink {
  readonly #sink: TrackSink;
  readonly #pieces: TrailPieces;
  #labels: { name?: string; description?: string; veiled?: number; extras?: Record<string, string> } = {};
  /** Points of the open track without a time, until one has a time: the whole track, if it is a line. */
  #parts: LinePoint[][] = [];
  /** Points without a time: the line of the first, and their number. */
  #untimed: { line: number; count: number } | undefined;
  #route: {
    labels: { name?: string; description?: string; extras?: Record<string, string> };
    points: LinePoint[];
  } = {
    labels: {},
    points: [],
  };

  constructor(sink: TrackSink, pieceSize: number | undefined) {
    this.#sink = sink;
    this.#pieces = new TrailPieces(sink, pieceSize);
  }

  trackStart(): void {
    this.#labels = {};
    this.#parts = [];
    this.#untimed = undefined;
  }

  label(owner: 'track' | 'route' | 'file', kind: 'name' | 'description' | 'veiled', text: string): void {
    if (kind === 'veiled') {
      if (owner === 'track' && /^\d{1,9}$/.test(text.trim())) this.#labels.veiled = Number(text);
    } else if (owner === 'track') this.#labels[kind] ??= text;
    else if (owner === 'route') this.#route.labels[kind] ??= text;
    else if (kind === 'name') this.#sink.title(text);
  }

  extra(owner: 'track' | 'route', key: string, text: string): void {
    const labels = owner === 'track' ? this.#labels : this.#route.labels;
    const extras = (labels.extras ??= {});
    if (Object.keys(extras).length < MAX_KEYS) extras[key] = text;
  }

  segmentStart(): void {
    this.#pieces.breakSegment();
    this.#parts.push([]);
  }

  trackPoint(point: GpxPoint): void {
    if (Number.isNaN(point.time)) {
      this.#untimed = { line: this.#untimed?.line ?? point.line, count: (this.#untimed?.count ?? 0) + 1 };
      if (this.#pieces.begun) return;
      if (this.#parts.length === 0) this.#parts.push([]);
      this.#parts.at(-1)?.push(linePoint(point));
      return;
    }
    // The name comes before the points in the order of the standard.
    if (!this.#pieces.begun) this.#begin(this.#labels);
    const kinds = kindsIfPlain(point);
    if (kinds !== undefined) {
      const trail = this.#pieces.room();
      const { time, lat, lon, accuracy, altitude, altitudeAccuracy, course, speed } = point;
      appendNumbers(
        trail,
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
      if (point.extras === undefined && point.name === undefined && point.description === undefined) return;
      for (const [key, text] of Object.entries(extrasOf(point) ?? {}))
        trail.setExtra(trail.length - 1, key, text);
    } else {
      this.#takeChecked(point);
    }
  }

  trackEnd(): void {
    if (this.#pieces.begun) {
      this.#pieces.end();
      if (this.#untimed !== undefined) {
        const { line, count } = this.#untimed;
        this.#sink.note({
          line,
          text: `${count} ${count === 1 ? 'point' : 'points'} without a time left out`,
        });
      }
      return;
    }
    const parts = this.#parts.filter((run) => run.length > 0);
    if (parts.length > 0) {
      const { name, description, extras } = this.#labels;
      this.#sink.line({
        ...(name !== undefined && { name }),
        ...(description !== undefined && { description }),
        ...(extras !== undefined && { extras }),
        parts,
      });
    }
  }

  routeStart(): void {
    this.#route = { labels: {}, points: [] };
  }

  routePoint(point: GpxPoint): void {
    this.#route.points.push(linePoint(point));
  }

  routeEnd(): void {
    const { labels, points } = this.#route;
    if (points.length > 0) this.#sink.route({ ...labels, parts: [points] });
  }

  waypoint(point: GpxPoint): void {
    const { lat, lon, altitude, name, extras } = point;
    this.#sink.waypoint({
      lat,
      lon,
      ...(!Number.isNaN(altitude) && { altitude }),
      ...(name !== undefined && { name }),
      ...(extras !== undefined && { extras }),
      ...(point.description !== undefined && { description: point.description }),
      ...(!Number.isNaN(point.time) && { time: point.time }),
    });
  }

  #begin(labels: TrailLabels): void {
    this.#pieces.start(labels);
    this.#parts = [];
  }

  /**
   * Takes a point that needs a check: an impossible value is left out with a note, an impossible fix with all its
   * values.
   */
  #takeChecked(point: GpxPoint): void {
    const { time, lat, lon, accuracy, altitude, altitudeAccuracy, course, speed } = point;
    const { fix, problems } = salvage({
      ...knownWords(point),
      time,
      lat,
      lon,
      accuracy,
      altitude,
      altitudeAccuracy,
      course,
      speed,
    });
    if (fix !== undefined) this.#pieces.take(fix, extrasOf(point));
    for (const problem of problems) this.#sink.note({ line: point.line, text: `${problem}; left out` });
  }
}

/**
 * Origin and datum in one byte, when the checks would change nothing in a point: the fast path of nearly all points,
 * without an object.
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

function linePoint(point: GpxPoint): LinePoint {
  const { lat, lon, altitude } = point;
  const extras = extrasOf(point);
  return { lat, lon, ...(!Number.isNaN(altitude) && { altitude }), ...(extras !== undefined && { extras }) };
}

/** Additional data of a point; also its name, which only a waypoint has a field for. */
function extrasOf({ name, description, extras }: GpxPoint): Record<string, string> | undefined {
  if (name === undefined && description === undefined) return extras;
  return {
    ...extras,
    ...(name !== undefined && { [gpxKey('name')]: name }),
    ...(description !== undefined && { [gpxKey('desc')]: description }),
  };
}

import type { Fix } from '../../fix/fix.js';
import type { Line, LinePoint, Waypoint } from '../../trail/line.js';
import type { Extras } from '../../trail/extras.js';
import type { Trail } from '../../trail/trail.js';
import { gpxKey, pointChildren, trackChildren } from './gpx-extras.js';
import { DRIFT_NAMESPACE, DRIFT_NUMBERS, GPX_NAMESPACE } from './gpx-words.js';
import type { Output } from '../output.js';
import { timeText } from '../time.js';
import type { TrackContent } from '../track-document.js';
import type { PiecePlace } from '../track-sink.js';
import { textOf, type TrackWriter } from '../track-writer.js';
import { xmlDecimal, xmlText } from '../xml.js';

/**
 * Writes a GPX 1.1 document. Every number has all its digits. A line is a track without times; a route is written as
 * one part.
 */
export function writeGpx(content: TrackContent): string {
  return textOf((output) => new GpxWriter(output), content);
}

/** Writes GPX in the order of the standard, waypoints, routes, tracks, in whatever order they arrive. */
export class GpxWriter implements TrackWriter {
  readonly leftOut: readonly string[] = [];
  readonly #output: Output;
  #name: string | undefined;
  #begun = false;

  constructor(output: Output) {
    this.#output = output;
  }

  title(name: string): void {
    this.#name ??= name;
  }

  waypoint(waypoint: Waypoint): void {
    this.#begin();
    this.#output.write(pointText('wpt', waypoint, waypointChildren(waypoint)));
  }

  route(route: Line): void {
    this.#output.aside('routes', routeText(route));
  }

  line(line: Line): void {
    const parts = line.parts.map((part) => part.map((point) => linePointText('trkpt', point)).join(''));
    this.#output.aside('tracks', gpxTrackStart(line) + parts.join(GPX_SEGMENT_BREAK) + GPX_TRACK_END);
  }

  trail(piece: Trail, { first, last, joined }: PiecePlace): void {
    const segments = piece.segments.map(({ start, end }) => {
      let text = '';
      for (let i = start; i < end; i++) text += gpxTrackPoint(piece.at(i) as Fix, piece.extrasOf(i));
      return text;
    });
    const start = first ? gpxTrackStart(piece) : joined ? '' : GPX_SEGMENT_BREAK;
    this.#output.aside('tracks', start + segments.join(GPX_SEGMENT_BREAK) + (last ? GPX_TRACK_END : ''));
  }

  note(): void {
    // What was passed over is told to the user, not written.
  }

  end(): void {
    this.#begin();
    this.#output.recall('routes');
    this.#output.recall('tracks');
    this.#output.write(GPX_END);
  }

  #begin(): void {
    if (this.#begun) return;
    this.#begun = true;
    this.#output.write(gpxStart(this.#name));
  }
}

const NAME = gpxKey('name');
const DESCRIPTION = gpxKey('desc');

/** The document up to its first child. */
export function gpxStart(name?: string): string {
  const metadata = name === undefined ? '' : `<metadata>${labelText('name', name, '')}</metadata>\n`;
  return (
    '<?xml version="1.0" encoding="UTF-8"?>\n' +
    `<gpx version="1.1" creator="Aurelian Drift" xmlns="${GPX_NAMESPACE}" ` +
    `xmlns:drift="${DRIFT_NAMESPACE}">\n${metadata}`
  );
}
export const GPX_END = '</gpx>\n';

/** Labels as a trail has them. */
interface Labels {
  readonly name?: string | undefined;
  readonly description?: string | undefined;
  readonly veiled?: number | undefined;
  readonly extras?: Extras | undefined;
}

/** Start of a track up to its first point, and its end. For writers that add points as they arrive. */
export function gpxTrackStart(labels: Labels): string {
  return `<trk>\n${trackChildren(labelled(labels), driftText('veiled', labels.veiled))}<trkseg>\n`;
}
export const GPX_SEGMENT_BREAK = '</trkseg>\n<trkseg>\n';
export const GPX_TRACK_END = '</trkseg>\n</trk>\n';

/** Name and description among the other children. */
function labelled({ name, description, extras }: Labels): Extras {
  if (name === undefined && description === undefined) return extras ?? {};
  return {
    ...extras,
    ...(name !== undefined && { [NAME]: name }),
    ...(description !== undefined && { [DESCRIPTION]: description }),
  };
}

/** One track point. */
export function gpxTrackPoint(fix: Fix, extras?: Extras): string {
  const own = DRIFT_NUMBERS.map((name) => driftText(name, fix[name])).join('');
  const words =
    (fix.altitudeDatum === undefined
      ? ''
      : `<drift:altitudeDatum>${fix.altitudeDatum}</drift:altitudeDatum>`) +
    (fix.origin === 'unknown' ? '' : `<drift:origin>${fix.origin}</drift:origin>`) +
    (fix.marks === undefined ? '' : `<drift:marks>${fix.marks.join(' ')}</drift:marks>`);
  const rest =
    extras !== undefined
      ? pointChildren(extras, own + words)
      : own + words === ''
        ? ''
        : `<extensions>${own}${words}</extensions>`;
  return pointText('trkpt', fix, `${elevationText(fix.altitude)}<time>${timeText(fix.time)}</time>${rest}`);
}

function routeText(line: Line): string {
  const points = line.parts.flat().map((point) => linePointText('rtept', point));
  return `<rte>\n${trackChildren(labelled(line), '')}${points.join('')}</rte>\n`;
}

function linePointText(element: 'rtept' | 'trkpt', point: LinePoint): string {
  return pointText(element, point, elevationText(point.altitude) + pointChildren(point.extras ?? {}, ''));
}

function waypointChildren(waypoint: Waypoint): string {
  const { altitude, time } = waypoint;
  const when = time === undefined ? '' : `<time>${timeText(time)}</time>`;
  return elevationText(altitude) + when + pointChildren(labelled(waypoint), '');
}

function pointText(element: string, { lat, lon }: LinePoint, children: string): string {
  // The longitude type of the standard excludes +180.
  const east = lon === 180 ? -180 : lon;
  const start = `<${element} lat="${xmlDecimal(lat)}" lon="${xmlDecimal(east)}"`;
  return children === '' ? `${start}/>\n` : `${start}>${children}</${element}>\n`;
}

function elevationText(altitude: number | undefined): string {
  return altitude === undefined ? '' : `<ele>${xmlDecimal(altitude)}</ele>`;
}

function driftText(name: string, value: number | undefined): string {
  return value === undefined ? '' : `<drift:${name}>${xmlDecimal(value)}</drift:${name}>`;
}

function labelText(element: string, text: string | undefined, end = '\n'): string {
  return text === undefined ? '' : `<${element}>${xmlText(text)}</${element}>${end}`;
}

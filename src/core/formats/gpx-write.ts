import type { Fix } from '../fix/fix.js';
import type { Line, LinePoint, Waypoint } from '../trail/line.js';
import type { Trail } from '../trail/trail.js';
import { DRIFT_NAMESPACE, DRIFT_NUMBERS, GPX_NAMESPACE } from './gpx-words.js';
import type { Output } from './output.js';
import { timeText } from './time.js';
import type { TrackContent } from './track-document.js';
import type { PiecePlace } from './track-sink.js';
import { textOf, type TrackWriter } from './track-writer.js';
import { xmlDecimal, xmlText } from './xml.js';

/** A GPX 1.1 document. Every number is written with all its digits. A line without times becomes a route: GPX has no other place for it. */
export function writeGpx(content: TrackContent): string {
  return textOf((output) => new GpxWriter(output), content);
}

/** Writes GPX in the standard's order, waypoints, routes, tracks, whatever the order in which they come. */
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
    this.#output.aside('routes', routeText(line));
  }

  trail(piece: Trail, { first, last, joined }: PiecePlace): void {
    const segments = piece.segments.map((segment) =>
      Array.from(piece.fixesOf(segment), gpxTrackPoint).join(''),
    );
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

/** The document up to its first child. */
export function gpxStart(name?: string): string {
  const metadata = name === undefined ? '' : `<metadata>${labelText('name', name, '')}</metadata>\n`;
  return (
    '<?xml version="1.0" encoding="UTF-8"?>\n' +
    `<gpx version="1.1" creator="Aurelian Drift" xmlns="${GPX_NAMESPACE}" xmlns:drift="${DRIFT_NAMESPACE}">\n${metadata}`
  );
}
export const GPX_END = '</gpx>\n';

/** Labels as a trail has them. */
interface Labels {
  readonly name?: string | undefined;
  readonly description?: string | undefined;
  readonly veiled?: number | undefined;
}

/** A track up to its first point, and what closes it. For writers that add points as they come. */
export function gpxTrackStart(labels: Labels): string {
  const veiled =
    labels.veiled === undefined
      ? ''
      : `<extensions><drift:veiled>${labels.veiled}</drift:veiled></extensions>\n`;
  return `<trk>\n${labelText('name', labels.name)}${labelText('desc', labels.description)}${veiled}<trkseg>\n`;
}
export const GPX_SEGMENT_BREAK = '</trkseg>\n<trkseg>\n';
export const GPX_TRACK_END = '</trkseg>\n</trk>\n';

/** One track point. */
export function gpxTrackPoint(fix: Fix): string {
  const own = DRIFT_NUMBERS.map((name) => driftText(name, fix[name])).join('');
  const words =
    (fix.altitudeDatum === undefined
      ? ''
      : `<drift:altitudeDatum>${fix.altitudeDatum}</drift:altitudeDatum>`) +
    (fix.origin === 'unknown' ? '' : `<drift:origin>${fix.origin}</drift:origin>`) +
    (fix.marks === undefined ? '' : `<drift:marks>${fix.marks.join(' ')}</drift:marks>`);
  const extensions = own + words === '' ? '' : `<extensions>${own}${words}</extensions>`;
  return pointText(
    'trkpt',
    fix,
    `${elevationText(fix.altitude)}<time>${timeText(fix.time)}</time>${extensions}`,
  );
}

function routeText(line: Line): string {
  const points = line.parts.flat().map((point) => pointText('rtept', point, elevationText(point.altitude)));
  return `<rte>\n${labelText('name', line.name)}${points.join('')}</rte>\n`;
}

function waypointChildren({ altitude, time, name, description }: Waypoint): string {
  const when = time === undefined ? '' : `<time>${timeText(time)}</time>`;
  return elevationText(altitude) + when + labelText('name', name, '') + labelText('desc', description, '');
}

function pointText(element: string, { lat, lon }: LinePoint, children: string): string {
  // The standard's longitude type ends below +180.
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

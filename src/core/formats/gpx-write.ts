import type { Fix } from '../fix/fix.js';
import type { Line, LinePoint, Waypoint } from '../trail/line.js';
import type { Trail } from '../trail/trail.js';
import { DRIFT_NAMESPACE, DRIFT_NUMBERS, GPX_NAMESPACE } from './gpx-words.js';
import { timeText } from './time.js';
import { xmlDecimal, xmlText } from './xml.js';

/** What goes into a GPX file. */
export interface GpxContent {
  readonly waypoints?: readonly Waypoint[];
  readonly routes?: readonly Line[];
  readonly trails?: readonly Trail[];
}

/** A GPX 1.1 document. Every number is written with all its digits. */
export function writeGpx({ waypoints = [], routes = [], trails = [] }: GpxContent): string {
  return [
    gpxStart(),
    ...waypoints.map((waypoint) => pointText('wpt', waypoint, waypointChildren(waypoint))),
    ...routes.map(routeText),
    ...trails.map(trailText),
    GPX_END,
  ].join('');
}

/** The document up to its first child. */
export function gpxStart(): string {
  return (
    '<?xml version="1.0" encoding="UTF-8"?>\n' +
    `<gpx version="1.1" creator="Aurelian Drift" xmlns="${GPX_NAMESPACE}" xmlns:drift="${DRIFT_NAMESPACE}">\n`
  );
}
export const GPX_END = '</gpx>\n';

/** A track up to its first point, and what closes it. For writers that add points as they come. */
export function gpxTrackStart(labels: {
  readonly name?: string | undefined;
  readonly description?: string | undefined;
}): string {
  return `<trk>\n${labelText('name', labels.name)}${labelText('desc', labels.description)}<trkseg>\n`;
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

function trailText(trail: Trail): string {
  const segments = trail.segments.map((segment) =>
    Array.from(trail.fixesOf(segment), gpxTrackPoint).join(''),
  );
  return gpxTrackStart(trail) + segments.join(GPX_SEGMENT_BREAK) + GPX_TRACK_END;
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

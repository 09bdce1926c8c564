import { csvFormatRows } from 'd3-dsv';
import type { Crossing } from '../fence/crossing.js';
import { timeText } from './time.js';

/** Columns of a crossing, in this order; times are RFC 3339, numbers in SI units and degrees. */
const COLUMNS = [
  'time',
  'kind',
  'fence',
  'name',
  'lat',
  'lon',
  'certainty',
  'accuracy',
  'course',
  'duration',
  'notBefore',
] as const;

/** Writes a log of crossings as CSV (RFC 4180), one line per crossing; unknown values are empty. */
export function writeCrossingsCsv(crossings: Iterable<Crossing>): string {
  const rows = Array.from(crossings, (crossing) =>
    COLUMNS.map((column) => String(valueOf(crossing, column) ?? '')),
  );
  return [[...COLUMNS], ...rows].map((row) => `${csvFormatRows([row])}\r\n`).join('');
}

/**
 * Converts a log of crossings to a GeoJSON FeatureCollection (RFC 7946), one point per crossing with the other fields
 * as properties.
 */
export function crossingsToGeoJson(crossings: Iterable<Crossing>): object {
  const features = Array.from(crossings, (crossing) => ({
    type: 'Feature',
    geometry: { type: 'Point', coordinates: [crossing.lon, crossing.lat] },
    properties: Object.fromEntries(
      COLUMNS.filter((column) => column !== 'lat' && column !== 'lon')
        .map((column) => [column, valueOf(crossing, column)] as const)
        .filter(([, value]) => value !== undefined),
    ),
  }));
  return { type: 'FeatureCollection', features };
}

function valueOf(crossing: Crossing, column: (typeof COLUMNS)[number]): string | number | undefined {
  const value = crossing[column];
  return (column === 'time' || column === 'notBefore') && typeof value === 'number' ? timeText(value) : value;
}

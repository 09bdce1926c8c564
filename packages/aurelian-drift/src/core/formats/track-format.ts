import { CsvReader } from './csv.js';
import { CsvWriter } from './csv-write.js';
import { GeoJsonWriter } from './geojson-write.js';
import { gpxReader } from './gpx.js';
import { GpxWriter } from './gpx-write.js';
import { KmlReader } from './kml.js';
import { KmlWriter } from './kml-write.js';
import { NmeaReader } from './nmea.js';
import { NmeaWriter } from './nmea-write.js';
import type { Output } from './output.js';
import type { ReaderOptions, TrackReader, TrackSink } from './track-sink.js';
import type { TrackWriter } from './track-writer.js';

/** Formats of trails, lines and waypoints. */
export const TRACK_FORMATS = ['gpx', 'geojson', 'kml', 'csv', 'nmea'] as const;
export type TrackFormat = (typeof TRACK_FORMATS)[number];

/** What each is called by people. */
export const FORMAT_NAMES: Readonly<Record<TrackFormat, string>> = {
  gpx: 'GPX',
  geojson: 'GeoJSON',
  kml: 'KML',
  csv: 'CSV',
  nmea: 'NMEA 0183',
};

const ENDINGS: Readonly<Record<string, TrackFormat>> = {
  gpx: 'gpx',
  geojson: 'geojson',
  json: 'geojson',
  kml: 'kml',
  csv: 'csv',
  tsv: 'csv',
  nmea: 'nmea',
  nma: 'nmea',
};

/** The format that the ending of a file's name says; `undefined` for another ending. */
export function formatOfEnding(path: string): TrackFormat | undefined {
  const ending = /\.([a-z]+)$/i.exec(path)?.[1]?.toLowerCase() ?? '';
  return Object.hasOwn(ENDINGS, ending) ? ENDINGS[ending] : undefined;
}

/** The format of a text by its beginning, of which some thousand characters will do; `undefined` when it is none of them. */
export function formatOfText(start: string): TrackFormat | undefined {
  const text = start.trimStart();
  if (text.startsWith('{')) return 'geojson';
  // Which XML it is says its root; what is neither is told by the reader of GPX.
  if (text.startsWith('<')) return /<(?:[\w.-]+:)?kml[\s>]/.test(text) ? 'kml' : 'gpx';
  const lines = text.split(/\r\n|\n|\r/, 50);
  if (lines.some((line) => /\$[A-Z0-9]{2}[A-Z]{3},/.test(line))) return 'nmea';
  return /[,;\t]/.test(lines[0] ?? '') ? 'csv' : undefined;
}

/** A reader of a format that is read as it comes; GeoJSON is read whole, by `tellGeoJson`. */
export function trackReader(
  format: Exclude<TrackFormat, 'geojson'>,
  sink: TrackSink,
  options: ReaderOptions = {},
): TrackReader {
  switch (format) {
    case 'gpx':
      return gpxReader(sink, options);
    case 'kml':
      return new KmlReader(sink, options);
    case 'csv':
      return new CsvReader(sink, options);
    case 'nmea':
      return new NmeaReader(sink, options);
  }
}

/** A writer that writes as things come, with whatever the format may hold. */
export function trackWriter(format: TrackFormat, output: Output): TrackWriter {
  switch (format) {
    case 'gpx':
      return new GpxWriter(output);
    case 'geojson':
      return new GeoJsonWriter(output);
    case 'kml':
      return new KmlWriter(output);
    case 'csv':
      return new CsvWriter(output);
    case 'nmea':
      return new NmeaWriter(output);
  }
}

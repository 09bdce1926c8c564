import type { FormatDescriptor } from '../format-descriptor.js';
import { NmeaReader } from './nmea.js';
import { NmeaWriter } from './nmea-write.js';

/** Lines in which a first sentence is looked for. */
const LINES = 50;

/** NMEA 0183 (IEC 61162-1). */
export const NMEA = {
  name: 'nmea',
  title: 'NMEA 0183',
  endings: ['nmea', 'nma'],
  media: 'text/plain',
  recognise: (start) =>
    start.split(/\r\n|\n|\r/, LINES).some((line) => /\$[A-Z0-9]{2}[A-Z]{3},/.test(line)) ? 'surely' : 'no',
  beginsAnyhow: true,
  reading: { by: 'piece', reader: (sink, options) => new NmeaReader(sink, options) },
  writer: (output) => new NmeaWriter(output),
} as const satisfies FormatDescriptor;

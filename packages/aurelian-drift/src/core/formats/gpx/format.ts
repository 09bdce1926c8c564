import type { FormatDescriptor } from '../format-descriptor.js';
import { gpxReader } from './gpx.js';
import { GpxWriter } from './gpx-write.js';

/** GPX 1.1 and 1.0. */
export const GPX = {
  name: 'gpx',
  title: 'GPX',
  endings: ['gpx'],
  media: 'application/gpx+xml',
  // Of XML that is nothing else, the reader of GPX says what is wrong with it.
  recognise: (start) =>
    /<(?:[\w.-]+:)?gpx[\s>]/.test(start) ? 'surely' : start.startsWith('<') ? 'maybe' : 'no',
  reading: { by: 'piece', reader: gpxReader },
  writer: (output) => new GpxWriter(output),
} as const satisfies FormatDescriptor;

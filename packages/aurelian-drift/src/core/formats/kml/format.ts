import type { FormatDescriptor } from '../format-descriptor.js';
import { KmlReader } from './kml.js';
import { KmlWriter } from './kml-write.js';

/** KML 2.3 (OGC 12-007r2), with its tracks. */
export const KML = {
  name: 'kml',
  title: 'KML',
  endings: ['kml'],
  media: 'application/vnd.google-earth.kml+xml',
  recognise: (start) => (start.startsWith('<') && /<(?:[\w.-]+:)?kml[\s>]/.test(start) ? 'surely' : 'no'),
  reading: { by: 'piece', reader: (sink, options) => new KmlReader(sink, options) },
  writer: (output) => new KmlWriter(output),
} as const satisfies FormatDescriptor;

import type { FormatDescriptor } from '../format-descriptor.js';
import { deliverGeoJson } from './geojson-trail.js';
import { GeoJsonWriter } from './geojson-write.js';

/** GeoJSON (RFC 7946), with the times of a trail in `properties.columns`. */
export const GEOJSON = {
  name: 'geojson',
  title: 'GeoJSON',
  endings: ['geojson', 'json'],
  media: 'application/geo+json',
  recognise: (start) => (start.startsWith('{') ? 'surely' : 'no'),
  reading: { by: 'document', deliver: deliverGeoJson },
  writer: (output) => new GeoJsonWriter(output),
} as const satisfies FormatDescriptor;

/*
 * File formats, which a page can load when a file is opened or saved: `const { writeGpx } = await
 * import('aurelian-drift/formats')`. Everything is in `aurelian-drift` as well.
 */
export { writeGeoUri, readGeoUri, type GeoUriPlace } from './core/formats/geo-uri.js';
export { detectFormat, trackReader, trackWriter, type TrackFormat } from './core/formats/track-format.js';
export { readTracks } from './core/formats/read-tracks.js';
export { readGpx } from './core/formats/gpx/gpx.js';
export { writeGpx } from './core/formats/gpx/gpx-write.js';
export { readKml } from './core/formats/kml/kml.js';
export { writeKml } from './core/formats/kml/kml-write.js';
export { readCsv } from './core/formats/csv/csv.js';
export { writeCsv } from './core/formats/csv/csv-write.js';
export { readNmea } from './core/formats/nmea/nmea.js';
export { writeNmea } from './core/formats/nmea/nmea-write.js';
export { readGeoJson, tracksFrom } from './core/formats/geojson/geojson-trail.js';
export { trailToGeoJson, writeGeoJson } from './core/formats/geojson/geojson-write.js';
export { fencesToGeoJson } from './core/formats/fences-write.js';
export { writeCrossingsCsv, crossingsToGeoJson } from './core/formats/crossings-write.js';
export { fencesFrom, type FencesOptions } from './core/formats/geojson/geojson-fences.js';

/*
 * Files: what a page needs only when one is opened or saved, so that it can be loaded then: `const { writeGpx } = await
 * import('aurelian-drift/formats')`. All of it is in `aurelian-drift` as well.
 */
export { geoUri, placeOfGeoUri, type GeoUriPlace } from './core/formats/geo-uri.js';
export { formatOfText, trackReader, trackWriter, type TrackFormat } from './core/formats/track-format.js';
export { readGpx } from './core/formats/gpx/gpx.js';
export { writeGpx } from './core/formats/gpx/gpx-write.js';
export { readKml } from './core/formats/kml/kml.js';
export { writeKml } from './core/formats/kml/kml-write.js';
export { readCsv } from './core/formats/csv/csv.js';
export { writeCsv } from './core/formats/csv/csv-write.js';
export { readNmea } from './core/formats/nmea/nmea.js';
export { writeNmea } from './core/formats/nmea/nmea-write.js';
export { geoJsonTrailsFrom } from './core/formats/geojson/geojson-trail.js';
export { trailFeature, writeGeoJson } from './core/formats/geojson/geojson-write.js';
export { fencesToGeoJson } from './core/formats/fences-write.js';
export { crossingsToCsv, crossingsToGeoJson } from './core/formats/crossings-write.js';
export { fencesFrom, type FencesOptions } from './core/formats/geojson/geojson-fences.js';

/* Loaded when a page names places: most do not. */

export { placesFrom } from '../core/formats/geojson/geojson-places.js';
export { Gazetteer } from '../core/place/gazetteer.js';
export { gazetteerPlaces } from '../places/place-service.js';
export { PlaceWatch } from '../places/place-watch.js';

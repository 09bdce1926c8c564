/* Loaded when a page has a file of fences. */

export { timetable } from '../core/fence/timetable.js';
export { fencesFrom } from '../core/formats/geojson/geojson-fences.js';

/* What needs Node: trails in files. */

export { folderStore, gpxFileWriter } from './stores/gpx-file.js';

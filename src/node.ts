/* For Node: trails in files, and the look at an app's project. */

export { folderStore, gpxFileWriter } from './stores/gpx-file.js';
export { placesServer, type PlacesServerOptions } from './services/places-server.js';
export { preflight, type PreflightReport } from './preflight/preflight.js';
export type { Finding, Needs, ProjectFile, PromptPreview } from './preflight/finding.js';

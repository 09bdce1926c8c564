/* For Node: trails on disk and in files, services, and the look at an app's project. */

export { diskStore, type DiskStore, type DiskStoreOptions } from './stores/disk-store.js';
export { readTrackFile, streamTrackFile, type ReadFileOptions } from './files/track-file.js';
export { gpxFileWriter } from './files/gpx-file.js';
export { placesServer, type PlacesServerOptions } from './services/places-server.js';
export { preflight, type PreflightReport } from './preflight/preflight.js';
export type { Finding, Needs, ProjectFile, PromptPreview } from './preflight/finding.js';

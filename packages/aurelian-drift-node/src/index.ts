/*
 * For Node: trails on disk and in files, the life cycle of the process, services, and the preflight check of a project.
 */

export type { Finding } from 'aurelian-drift';
export { partyUsersFrom, type PartyUser } from 'aurelian-drift/internal';
export type { Needs, ProjectFile, PromptPreview } from './preflight/project.js';
export { diskStore, type DiskStoreOptions } from './stores/disk-store.js';
export {
  readTrackFile,
  streamTrackFile,
  type ReadFileOptions,
  type StreamOptions,
} from './files/track-file.js';
export { gpxFileWriter } from './files/gpx-file.js';
export { processLife, type ProcessLifeOptions } from './process-life.js';
export { placesServer, type PlacesServerOptions } from './services/places-server.js';
export { partyBroker, type PartyBroker, type PartyBrokerOptions } from './services/party-broker.js';
export { diskGuardStore } from './stores/disk-guard-store.js';
export { RIGHTS } from './services/broker-rights.js';
export { preflight, type PreflightReport, type FileKind } from './preflight/preflight.js';

/**
 * Names under which the library stores data in a browser, so that all of it can be found: the database of trails, keys
 * of the storages of a page, and the cache of tiles.
 */
export const KEPT_NAMES = {
  database: 'aurelian-drift',
  /** Local storage: the beginning of the keys of the views of maps. */
  views: 'aurelian-drift/view/',
  /** Local storage: that the user shares. */
  sharing: 'aurelian-drift/sharing',
  /** Session storage: the beginning of the keys of pages that follow. */
  running: 'aurelian-drift/running/',
  tiles: 'aurelian-drift/tiles',
  /** Addresses of the records of kept areas within the cache; no server has this name, and none is asked. */
  areas: 'https://aurelian-drift.invalid/areas/',
} as const;

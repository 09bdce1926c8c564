/* For the browser: trails that stay when the page is closed. */

export { forgetAll, type Forgotten } from './forget.js';
export { browserStore, type BrowserStoreOptions } from './browser-store.js';
export { keepStored, storageRoom, type StorageRoom } from './storage-room.js';

/* For the browser: trails that stay when the page is closed. */

export { browserStore, type BrowserStoreOptions } from './browser-store.js';

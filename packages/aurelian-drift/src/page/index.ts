/* For a page and its screens: files to keep, a place to send, a screen that stays on. */

export { keepScreenOn } from './keep-screen-on.js';
export { putGround, type GivenGround } from './put-ground.js';
export { saveFile, saveTracks } from './save-file.js';
export { sendPlace, type PlaceSent, type SendPlaceOptions } from './send-place.js';
export { placeMessage, type PlaceMessageOptions } from '../core/fix/place-message.js';

/*
 * Custom elements. Importing this module in a page defines <aurelian-receiver>, <aurelian-map>, <aurelian-consent>,
 * <aurelian-find>, <aurelian-near> and <aurelian-inspector>; each has an entry of its own too. Without a page it
 * defines nothing.
 */

export { ConsentElement } from './consent.js';
export { FindElement, type FindChoice } from './find.js';
export { InspectorElement } from './inspector.js';
export { MapElement } from './map.js';
export type { CommonMarkup, ElementClasses, ElementMarkup } from './markup.js';
export { NearElement } from './near.js';
export { PageElement } from './page-element.js';
export { PaperElement, type PaperElementShape } from './paper-element.js';
// Last: what is inside it is defined by then.
export { ReceiverElement } from './receiver.js';

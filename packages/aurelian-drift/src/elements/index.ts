/*
 * Custom elements. Importing this module in a page defines <aurelian-map>, <aurelian-consent>, <aurelian-find> and
 * <aurelian-inspector>. Without a page it defines nothing.
 */

import { ConsentElement } from './consent.js';
import { FindElement, type FindChoice } from './find.js';
import { InspectorElement } from './inspector.js';
import { MapElement } from './map.js';

const ELEMENTS = {
  'aurelian-map': MapElement,
  'aurelian-consent': ConsentElement,
  'aurelian-find': FindElement,
  'aurelian-inspector': InspectorElement,
} as const;
const registry = (globalThis as { customElements?: CustomElementRegistry }).customElements;
for (const [name, element] of Object.entries(ELEMENTS)) {
  if (registry !== undefined && registry.get(name) === undefined) registry.define(name, element);
}

declare global {
  interface HTMLElementEventMap {
    /** Dispatched by `<aurelian-find>`. */
    choose: CustomEvent<FindChoice>;
  }
  interface HTMLElementTagNameMap {
    'aurelian-map': MapElement;
    'aurelian-consent': ConsentElement;
    'aurelian-find': FindElement;
    'aurelian-inspector': InspectorElement;
  }
}

export { PageElement } from './page-element.js';
export { PaperElement, type PaperElementShape } from './paper-element.js';
export { ConsentElement, FindElement, InspectorElement, MapElement, type FindChoice };

/*
 * Custom elements. Importing this module in a page defines <aurelian-map>, <aurelian-consent>, <aurelian-find> and
 * <aurelian-inspector>. Without a page it defines nothing.
 */

import { ConsentElement } from './consent.js';
import { FindElement, type FindChoice } from './find.js';
import { InspectorElement } from './inspector.js';
import type { MapEvent } from '../map/map-events.js';
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

/** Data of an event of a map, without its kind. */
type DetailOf<Kind extends MapEvent['kind']> = Omit<Extract<MapEvent, { kind: Kind }>, 'kind'>;

declare global {
  interface HTMLElementEventMap {
    /** Dispatched by `<aurelian-map>`: the view has changed. */
    mapview: CustomEvent<DetailOf<'view'>>;
    /** Dispatched by `<aurelian-map>`: a short press. */
    maptap: CustomEvent<DetailOf<'tap'>>;
    /** Dispatched by `<aurelian-map>`: a long press. */
    maphold: CustomEvent<DetailOf<'hold'>>;
    /** Dispatched by `<aurelian-map>`: a pin was put down somewhere else. */
    mapdrop: CustomEvent<DetailOf<'drop'>>;
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

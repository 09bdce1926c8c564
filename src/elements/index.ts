/* Custom elements. Importing this defines them: <aurelian-map>, <aurelian-consent>, <aurelian-find> and <aurelian-inspector>. */

import { ConsentElement } from './consent.js';
import { FindElement, type Choice, type FindTexts } from './find.js';
import { InspectorElement } from './inspector.js';
import { MapElement } from './map.js';

const ELEMENTS = {
  'aurelian-map': MapElement,
  'aurelian-consent': ConsentElement,
  'aurelian-find': FindElement,
  'aurelian-inspector': InspectorElement,
} as const;
for (const [name, element] of Object.entries(ELEMENTS)) {
  if (customElements.get(name) === undefined) customElements.define(name, element);
}

declare global {
  interface HTMLElementTagNameMap {
    'aurelian-map': MapElement;
    'aurelian-consent': ConsentElement;
    'aurelian-find': FindElement;
    'aurelian-inspector': InspectorElement;
  }
}

export { ConsentElement, FindElement, InspectorElement, MapElement, type Choice, type FindTexts };

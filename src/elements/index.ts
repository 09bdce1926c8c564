/* Custom elements. Importing this defines them: <aurelian-consent> and <aurelian-inspector>. */

import { ConsentElement } from './consent.js';
import { InspectorElement } from './inspector.js';

const ELEMENTS = { 'aurelian-consent': ConsentElement, 'aurelian-inspector': InspectorElement } as const;
for (const [name, element] of Object.entries(ELEMENTS)) {
  if (customElements.get(name) === undefined) customElements.define(name, element);
}

declare global {
  interface HTMLElementTagNameMap {
    'aurelian-consent': ConsentElement;
    'aurelian-inspector': InspectorElement;
  }
}

export { ConsentElement, InspectorElement };

import type { DefineComponent } from 'vue';
import type { ElementMarkup } from '../elements/markup.js';

/** The elements in templates. */
export type ElementsInTemplates = { [Name in keyof ElementMarkup]: DefineComponent<ElementMarkup[Name]> };

declare module 'vue' {
  // eslint-disable-next-line @typescript-eslint/no-empty-object-type -- it adds the elements
  interface GlobalComponents extends ElementsInTemplates {}
}

import type { HTMLAttributes, RefAttributes } from 'react';
import type { ElementClasses, ElementMarkup } from '../elements/markup.js';

/** What JSX may give an element: attributes, properties, listeners, and those of every element. */
export type MarkupOf<Name extends keyof ElementMarkup> = HTMLAttributes<ElementClasses[Name]> &
  RefAttributes<ElementClasses[Name]> &
  ElementMarkup[Name];

/** The elements in JSX. */
export type ElementsInJsx = { [Name in keyof ElementMarkup]: MarkupOf<Name> };

declare module 'react' {
  // eslint-disable-next-line @typescript-eslint/no-namespace -- the place that React has for it
  namespace JSX {
    // eslint-disable-next-line @typescript-eslint/no-empty-object-type -- it adds the elements
    interface IntrinsicElements extends ElementsInJsx {}
  }
}

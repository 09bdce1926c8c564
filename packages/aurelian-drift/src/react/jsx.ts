import type { HTMLAttributes, RefAttributes } from 'react';
import type { ElementMarkup } from '../elements/markup.js';

type Markup<Name extends keyof ElementMarkup> = HTMLAttributes<HTMLElementTagNameMap[Name]> &
  RefAttributes<HTMLElementTagNameMap[Name]> &
  ElementMarkup[Name];

/** The elements in JSX. */
export type ElementsInJsx = { [Name in keyof ElementMarkup]: Markup<Name> };

declare module 'react' {
  // eslint-disable-next-line @typescript-eslint/no-namespace -- the place that React has for it
  namespace JSX {
    // eslint-disable-next-line @typescript-eslint/no-empty-object-type -- it adds the elements
    interface IntrinsicElements extends ElementsInJsx {}
  }
}

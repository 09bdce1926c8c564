/**
 * Base class of the map element: `HTMLElement`. Where there is no page, as on a server, it is an empty class, so that
 * the module can be imported.
 */
export const PageElement: typeof HTMLElement =
  typeof HTMLElement === 'undefined' ? (class {} as unknown as typeof HTMLElement) : HTMLElement;

/**
 * The base class of the map’s element: `HTMLElement`. Where there is no page, on a server that renders one for
 * instance, the class is there and no element comes of it.
 */
export const PageElement: typeof HTMLElement =
  typeof HTMLElement === 'undefined' ? (class {} as unknown as typeof HTMLElement) : HTMLElement;

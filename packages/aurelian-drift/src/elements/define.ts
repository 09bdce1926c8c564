/** Defines an element, in a page, unless the page has one of this name already: two copies of a module do no harm. */
export function define(name: string, element: CustomElementConstructor): void {
  const registry = (globalThis as { customElements?: CustomElementRegistry }).customElements;
  if (registry !== undefined && registry.get(name) === undefined) registry.define(name, element);
}

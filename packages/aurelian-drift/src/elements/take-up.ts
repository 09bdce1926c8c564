/**
 * Removes properties of an element that were set before it was defined, and returns them: they would hide the accessors
 * of its class.
 */
export function earlyOf(element: object, names: Iterable<string>): Readonly<Record<string, unknown>> {
  const early: Record<string, unknown> = {};
  for (const name of names) {
    if (!Object.hasOwn(element, name)) continue;
    early[name] = (element as Record<string, unknown>)[name];
    Reflect.deleteProperty(element, name);
  }
  return early;
}

/** Where a module that is loaded again finds its objects. */
const STORE = Symbol.for('aurelian-drift.kept');

/**
 * Makes an object once and keeps it for the life of the page, also when a development server replaces the module that
 * makes it: `const receiver = keepAcrossReloads('receiver', () => new Receiver({ … }))`. So there is one watch, and no
 * second prompt.
 */
export function keepAcrossReloads<T>(name: string, make: () => T): T {
  const holder = globalThis as { [STORE]?: Map<string, unknown> | undefined };
  const store = (holder[STORE] ??= new Map<string, unknown>());
  if (!store.has(name)) store.set(name, make());
  return store.get(name) as T;
}

/*
 * The symbols of the platform for `using` and `await using`. Where the platform has none, they are symbols of our own
 * without effect, so that classes can define the methods everywhere.
 */
const platform = Symbol as { readonly dispose?: symbol; readonly asyncDispose?: symbol };

/** Key of the method that ends an object: `Symbol.dispose` where the platform has it. */
export const DISPOSE: unique symbol = (platform.dispose ?? Symbol('dispose')) as never;
/**
 * Key of the method that ends an object and resolves when it has ended: `Symbol.asyncDispose` where the platform has
 * it.
 */
export const ASYNC_DISPOSE: unique symbol = (platform.asyncDispose ?? Symbol('asyncDispose')) as never;

/** Adds a dispose method that calls `close`, so that `using` closes the object. */
export function closedByUsing<Closable extends { close(): void }>(object: Closable): Closable {
  return Object.assign(object, { [DISPOSE]: () => object.close() });
}

/** Adds an async dispose method that calls `close`, so that `await using` closes the object. */
export function closedByAwaitUsing<Closable extends { close(): Promise<void> }>(object: Closable): Closable {
  return Object.assign(object, { [ASYNC_DISPOSE]: () => object.close() });
}

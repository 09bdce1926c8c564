/*
 * The platform's symbols for `using` and `await using`. Where it has none, these are symbols of our own that nothing
 * looks for, so that a class may define its method all the same.
 */
const platform = Symbol as { readonly dispose?: symbol; readonly asyncDispose?: symbol };

/** The key of the method that ends an object: `Symbol.dispose` where the platform has it. */
export const DISPOSE: unique symbol = (platform.dispose ?? Symbol('dispose')) as never;
/**
 * The key of the method that ends an object and resolves once it has: `Symbol.asyncDispose` where the platform has it.
 */
export const ASYNC_DISPOSE: unique symbol = (platform.asyncDispose ?? Symbol('asyncDispose')) as never;

/** The same object, so that `using` closes it. */
export function closedByUsing<Closable extends { close(): void }>(object: Closable): Closable {
  return Object.assign(object, { [DISPOSE]: () => object.close() });
}

/** The same object, so that `await using` closes it. */
export function closedByAwaitUsing<Closable extends { close(): Promise<void> }>(object: Closable): Closable {
  return Object.assign(object, { [ASYNC_DISPOSE]: () => object.close() });
}

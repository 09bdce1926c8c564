/*
 * The platform's symbols for `using` and `await using`. Where it has none, these are symbols of our own that nothing looks for, so that a class
 * may define its method all the same.
 */
const platform = Symbol as { readonly dispose?: symbol; readonly asyncDispose?: symbol };

/** The key of the method that ends an object: `Symbol.dispose` where the platform has it. */
export const DISPOSE: unique symbol = (platform.dispose ?? Symbol('dispose')) as never;
/** The key of the method that ends an object and resolves once it has: `Symbol.asyncDispose` where the platform has it. */
export const ASYNC_DISPOSE: unique symbol = (platform.asyncDispose ?? Symbol('asyncDispose')) as never;

import { randomFrom } from 'aurelian-drift/testing';

/** Pseudo-random choices among the given items, the same for the same seed. */
export function choices(seed: number) {
  const random = randomFrom(seed);
  return <Item>(...items: readonly Item[]) => items[Math.floor(random.uniform() * items.length)] as Item;
}

/** Disposes of an object as `using` or `await using` does. */
export function disposed(object: object): unknown {
  const { [Symbol.dispose]: end, [Symbol.asyncDispose]: endAsync } = object as Record<
    symbol,
    (() => unknown) | undefined
  >;
  return (endAsync ?? end)!.call(object);
}

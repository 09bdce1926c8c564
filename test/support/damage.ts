import fc from 'fast-check';

type Path = readonly (string | number)[];

/** The paths to all values inside a JSON value. */
function pathsIn(value: unknown, path: Path = []): Path[] {
  if (typeof value !== 'object' || value === null) return path.length === 0 ? [] : [path];
  const inner = Object.entries(value).flatMap(([key, each]) => pathsIn(each, [...path, key]));
  return path.length === 0 ? inner : [path, ...inner];
}

/** A copy of a JSON value in which one inner value is replaced or removed. */
export function damaged(value: unknown): fc.Arbitrary<unknown> {
  const paths = pathsIn(value);
  const other = fc.oneof(
    fc.jsonValue({ maxDepth: 2 }),
    fc.constantFrom(null, -1, 1e300, '', [], {}, true, { toString: 1, valueOf: 1 }),
  );
  return fc
    .tuple(fc.nat(paths.length - 1), fc.option(other, { nil: undefined, freq: 8 }))
    .map(([which, replacement]) => {
      const copy = structuredClone(value) as Record<string | number, unknown>;
      const path = paths[which]!;
      let at = copy;
      for (const key of path.slice(0, -1)) at = at[key] as Record<string | number, unknown>;
      const last = path.at(-1)!;
      if (replacement === undefined) Reflect.deleteProperty(at, last);
      else at[last] = replacement;
      return copy;
    });
}

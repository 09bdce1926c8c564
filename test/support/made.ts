import { Trail, fixFrom, type Fix, type RawFix, type TrackContent } from 'aurelian-drift';
import { randomFrom } from 'aurelian-drift/testing';
import fc from 'fast-check';

const start = Date.UTC(2026, 4, 14, 8);

/** Different fixes near the island with every field. */
export function fixes(count: number): Fix[] {
  const random = randomFrom(5);
  return Array.from({ length: count }, (_, i) =>
    fixFrom({
      time: start + i * 1000,
      lat: 44.2 + random.normal() / 100,
      lon: -33.6 + random.normal() / 100,
      accuracy: 3 + random.uniform() * 10,
      altitude: 20 + random.normal(),
      altitudeDatum: i % 3 === 0 ? 'sea' : 'ellipsoid',
      altitudeAccuracy: 8,
      course: random.uniform() * 360,
      speed: 1 + random.uniform(),
      origin: 'satellite',
      ...(i % 7 === 0 && { marks: ['late'] as const }),
    }),
  );
}

const maybe = (arbitrary: fc.Arbitrary<number>) => fc.option(arbitrary, { nil: undefined });
const positive = (max: number) => maybe(fc.double({ min: 0, max, noNaN: true }));

const rawFix: fc.Arbitrary<Omit<RawFix, 'time'>> = fc.record({
  lat: fc.double({ min: -90, max: 90, noNaN: true }),
  lon: fc.double({ min: -180, max: 180, noNaN: true, maxExcluded: true }),
  accuracy: positive(1e5),
  altitude: maybe(fc.double({ min: -500, max: 9000, noNaN: true })),
  altitudeDatum: fc.constantFrom('unknown', 'sea', 'ellipsoid'),
  altitudeAccuracy: positive(1e4),
  course: positive(359.9),
  speed: positive(100),
  origin: fc.constantFrom('unknown', 'satellite', 'network', 'simulated'),
  marks: fc.subarray(['cached', 'coarse', 'late', 'stale', 'clock-set'] as const),
});

/** Any trail a recorder may make, in segments, with or without a name. */
export const recordedTrail: fc.Arbitrary<Trail> = fc
  .tuple(
    fc.array(fc.array(rawFix, { minLength: 1, maxLength: 8 }), { maxLength: 4 }),
    fc.array(fc.integer({ min: 1, max: 100_000 }), { minLength: 40, maxLength: 40 }),
    fc.option(fc.string(), { nil: undefined }),
  )
  .map(([segments, steps, name]) => {
    const trail = new Trail(name === undefined ? {} : { name });
    let time = start;
    let index = 0;
    for (const segment of segments) {
      for (const raw of segment) {
        time += steps[index++ % steps.length] ?? 1000;
        trail.append(fixFrom({ ...raw, time }));
      }
      trail.breakSegment();
    }
    return trail;
  });

/** Text that every format can store, except line ends and control characters. */
const plainText = fc
  .string({ unit: 'grapheme', minLength: 1, maxLength: 12 })
  .map((text) => text.replaceAll(/[^\u0021-\uD7FF\uE000-\uFFFD]/g, '·'));

const extras = fc.dictionary(
  fc.constantFrom(
    '{urn:example:quill}pulse',
    '{urn:example:quill}body/{urn:example:quill}heat',
    '{urn:example:b&w}note',
    '{http://www.topografix.com/GPX/1/1}sym',
    '{http://www.topografix.com/GPX/1/1}cmt',
  ),
  plainText,
  { maxKeys: 4 },
);
const someExtras = fc.option(
  extras.filter((each) => Object.keys(each).length > 0),
  { nil: undefined },
);

/** A number with few enough decimals for schema checkers, which hold 24 digits. */
const tidy = (value: number) => Number(value.toFixed(12)) + 0;
const latitude = fc.double({ min: -90, max: 90, noNaN: true }).map(tidy);
const longitude = fc.double({ min: -180, max: 179.9, noNaN: true }).map(tidy);
const altitude = maybe(fc.double({ min: -500, max: 9000, noNaN: true }).map(tidy));

/** Elements of a trail or route as a whole, which has fewer of the standard's elements. */
const labelExtras = someExtras.map((each) => {
  const { '{http://www.topografix.com/GPX/1/1}sym': _, ...rest } = each ?? {};
  return Object.keys(rest).length === 0 ? undefined : rest;
});

const linePoint = fc
  .record({
    lat: latitude,
    lon: longitude,
    altitude,
    extras: someExtras,
  })
  .map(withoutAbsent);

/** A trail with the extra data that other programs write, for itself and for single fixes. */
const trailOfOthers = fc
  .tuple(
    recordedTrail.filter((trail) => trail.length > 0),
    fc.option(plainText, { nil: undefined }),
    labelExtras,
    fc.option(fc.integer({ min: 1, max: 9 }), { nil: undefined }),
    fc.array(extras, { minLength: 5, maxLength: 5 }),
  )
  .map(([trail, name, labels, veiled, beside]) => {
    const made = new Trail(withoutAbsent({ name, veiled, extras: labels }));
    for (const segment of trail.segments) {
      for (const fix of trail.fixesOf(segment)) {
        const numbers = Object.entries(fix).map(([key, value]) => [
          key,
          typeof value === 'number'
            ? tidy(value) - (key === 'lon' && tidy(value) === 180 ? 360 : 0)
            : (value as unknown),
        ]);
        made.append(fixFrom(Object.fromEntries(numbers) as RawFix));
        for (const [key, text] of Object.entries(beside[made.length % 5] ?? {}))
          made.setExtra(made.length - 1, key, text);
      }
      made.breakSegment();
    }
    return made;
  });

const line = (parts: number) =>
  fc
    .record({
      name: fc.option(plainText, { nil: undefined }),
      description: fc.option(plainText, { nil: undefined }),
      extras: labelExtras,
      parts: fc.array(fc.array(linePoint, { minLength: 2, maxLength: 4 }), {
        minLength: 1,
        maxLength: parts,
      }),
    })
    .map(withoutAbsent);

/** Everything that a file of tracks may contain. */
export const trackContent: fc.Arbitrary<Required<Omit<TrackContent, 'name'>>> = fc.record({
  trails: fc.array(trailOfOthers, { maxLength: 2 }),
  lines: fc.array(line(2), { maxLength: 2 }),
  routes: fc.array(line(1), { maxLength: 2 }),
  waypoints: fc.array(
    fc
      .record({
        lat: latitude,
        lon: longitude,
        altitude,
        name: fc.option(plainText, { nil: undefined }),
        description: fc.option(plainText, { nil: undefined }),
        time: fc.option(fc.integer({ min: start, max: start + 1e9 }), { nil: undefined }),
        extras: someExtras,
      })
      .map(withoutAbsent),
    { maxLength: 2 },
  ),
});

/** An object without its undefined properties. */
function withoutAbsent<Value extends object>(value: Value): WithoutAbsent<Value> {
  return Object.fromEntries(
    Object.entries(value).filter(([, each]) => each !== undefined),
  ) as WithoutAbsent<Value>;
}
type WithoutAbsent<Value> = {
  [Key in keyof Value as undefined extends Value[Key] ? never : Key]: Value[Key];
} & { [Key in keyof Value as undefined extends Value[Key] ? Key : never]?: Exclude<Value[Key], undefined> };

/** The contents of a file of tracks, in a form that can be compared. */
export function plainTracks({ trails = [], lines = [], routes = [], waypoints = [] }: TrackContent): object {
  return {
    trails: trails.map((trail) => ({
      name: trail.name,
      description: trail.description,
      veiled: trail.veiled,
      extras: trail.extras,
      segments: trail.segments,
      fixes: Array.from(trail, (fix, i) => ({ ...fix, extras: trail.extrasOf(i) })),
    })),
    lines,
    routes,
    waypoints,
  };
}

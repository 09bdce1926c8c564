import { Trail, fixOf, type Fix, type RawFix } from 'aurelian-drift';
import { randomFrom } from 'aurelian-drift/testing';
import fc from 'fast-check';

const start = Date.UTC(2026, 4, 14, 8);

/** Fixes near the island with every field, different each. */
export function fixes(count: number): Fix[] {
  const random = randomFrom(5);
  return Array.from({ length: count }, (_, i) =>
    fixOf({
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
  marks: fc.subarray(['cached', 'coarse', 'late'] as const),
});

/** Any trail a recorder may have made, in segments, with or without a name. */
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
        trail.append(fixOf({ ...raw, time }));
      }
      trail.breakSegment();
    }
    return trail;
  });

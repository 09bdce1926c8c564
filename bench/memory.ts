import { Trail, fixFrom } from 'aurelian-drift';
import { bytesFor, type Row } from './measure.js';

const FIXES = 1_000_000;

/** Memory of a trail of a million fixes with all fields, beside the same fixes as objects. */
export function memoryRow(): Row {
  const make = (i: number) =>
    fixFrom({
      time: 1.7e12 + i * 1000,
      lat: 44 + i * 1e-6,
      lon: -33 - i * 1e-6,
      accuracy: 5 + (i % 7),
      altitude: i % 90,
      altitudeAccuracy: 8,
      course: i % 360,
      speed: 1 + (i % 3) / 10,
    });
  const trail = new Trail();
  const inTrail = bytesFor(() => {
    for (let i = 0; i < FIXES; i++) trail.append(make(i));
  });
  const objects: object[] = [];
  const inObjects = bytesFor(() => {
    for (let i = 0; i < FIXES; i++) objects.push(make(i));
  });
  if (trail.length !== objects.length) throw new Error('not the same fixes');
  const mb = (bytes: number) => `${(bytes / 1e6).toFixed(0)} MB`;
  return {
    what: 'a trail of a million fixes in memory',
    ours: mb(inTrail),
    baseline: `as objects ${mb(inObjects)}`,
    ratio: `${(inTrail / inObjects).toFixed(2)} ×`,
    goal: '≤ 80 MB',
    met: inTrail <= 80e6,
  };
}

const TRAILS = 20_000;

/** Memory of a trail with one fix, beside the share of one fix in a long trail. */
export function smallTrailRow(): Row {
  const fix = fixFrom({ time: 1.7e12, lat: 44, lon: -33, accuracy: 5 });
  const trails: Trail[] = [];
  const bytes =
    bytesFor(() => {
      for (let i = 0; i < TRAILS; i++) {
        const trail = new Trail();
        trail.append(fix);
        trails.push(trail);
      }
    }) / TRAILS;
  if (trails.some(({ length }) => length !== 1)) throw new Error('not the same fixes');
  return {
    what: `a trail of one fix in memory, of ${TRAILS}`,
    ours: `${bytes.toFixed(0)} bytes`,
    baseline: 'a fix of a long trail 66 bytes',
    ratio: `${(bytes / 66).toFixed(0)} ×`,
    goal: '< 2000 bytes',
    met: bytes < 2000,
  };
}

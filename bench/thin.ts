import { Trail, fixFrom, thinTrail } from 'aurelian-drift';
import { randomFrom } from 'aurelian-drift/testing';
import simplify from 'simplify-js';
import { beside, type Row } from './measure.js';

const FIXES = 1_000_000;
const TOLERANCE = 5;

/**
 * A random walk of a million fixes one or two metres apart, thinned to 5 m, beside a planar thinner on the same points.
 */
export function thinRow(): Row {
  const random = randomFrom(21);
  const trail = new Trail();
  const points: { x: number; y: number }[] = [];
  let [lat, lon, course] = [44.2, -33.6, 0];
  for (let i = 0; i < FIXES; i++) {
    course += random.normal() * 0.08;
    lat += 1.3e-5 * Math.cos(course) + 2e-6 * random.normal();
    lon += 1.8e-5 * Math.sin(course) + 2e-6 * random.normal();
    trail.append(fixFrom({ time: 1.7e12 + i * 1000, lat, lon }));
    points.push({ x: (lon + 33.6) * 79_900, y: (lat - 44.2) * 111_100 });
  }
  let kept = 0;
  let plain = 0;
  const times = beside(
    () => (kept = thinTrail(trail, TOLERANCE).length),
    () => (plain = simplify(points, TOLERANCE, true).length),
    5,
  );
  const speed = (seconds: number) => `${(FIXES / 1e6 / seconds).toFixed(2)} M fixes/s`;
  const ratio = times.baseline / times.ours;
  return {
    what: `thinning 1 000 000 fixes to 5 m, ${kept} kept`,
    ours: speed(times.ours),
    baseline: `simplify-js, high quality, ${plain} kept ${speed(times.baseline)}`,
    ratio: `${ratio.toFixed(1)} ×`,
    goal: '≥ 3 ×',
    met: ratio >= 3,
  };
}

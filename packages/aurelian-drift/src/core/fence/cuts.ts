import { distance } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import { alongStraight } from '../geodesy/straight.js';

/** Resolution in metres: two cuts within a shorter part of a step are not told apart. */
const FINEST = 0.25;

/** Smallest fraction of a step that is halved: a double has 12 digits to spare. */
const MIN = 1e-12;

/**
 * Fractions of a step at which it cuts the edge of a shape that is given by the depth of a position inside it,
 * ascending. The depth changes by at most the length of the path, so a part whose ends are deeper than its length has
 * no cut; other parts are halved.
 *
 * @param depth metres, positive inside.
 */
export function cutsByDepth(
  depth: (lat: number, lon: number) => number,
  from: Position,
  to: Position,
): number[] {
  const length = distance(from, to);
  const cuts: number[] = [];
  if (!Number.isFinite(length)) return cuts; // an invalid position cuts nothing
  const depthAt = (t: number) => {
    const { lat, lon } = alongStraight(from, to, t);
    return depth(lat, lon);
  };
  const search = (t1: number, d1: number, t2: number, d2: number) => {
    const part = (t2 - t1) * length;
    const crosses = d1 >= 0 !== d2 >= 0;
    // A line that is straight in degrees is slightly curved on the ground: allow for a little more.
    if (!crosses && (part <= FINEST || t2 - t1 < MIN || Math.abs(d1) + Math.abs(d2) > part * 1.01)) return;
    if (crosses && (part <= FINEST || t2 - t1 < MIN)) {
      cuts.push(rootOf(depthAt, t1, d1, t2, d2));
      return;
    }
    const t = (t1 + t2) / 2;
    const d = depthAt(t);
    search(t1, d1, t, d);
    search(t, d, t2, d2);
  };
  search(0, depthAt(0), 1, depthAt(1));
  return cuts;
}

/**
 * Zero of a depth between two near positions of different sign, where it is almost linear: three steps of regula falsi.
 */
function rootOf(depthAt: (t: number) => number, t1: number, d1: number, t2: number, d2: number): number {
  let t = t1 + (t2 - t1) * (d1 / (d1 - d2));
  for (let i = 0; i < 2; i++) {
    const d = depthAt(t);
    if (d >= 0 === d1 >= 0) [t1, d1] = [t, d];
    else [t2, d2] = [t, d];
    t = t1 + (t2 - t1) * (d1 === d2 ? 0.5 : d1 / (d1 - d2));
  }
  return t;
}

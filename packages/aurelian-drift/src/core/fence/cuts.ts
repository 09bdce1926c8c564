import { distance } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import { alongStraight } from '../geodesy/straight.js';

/** Metres between places of a step below which it is not asked whether an edge was cut twice between them. */
const FINEST = 0.25;

/** Fraction of a step below which it is not halved, however long it is: 12 figures are what a double has to spare. */
const MIN = 1e-12;

/**
 * Where a step cuts the edge of a shape that is known by how deep in it a place lies: fractions of the step, ascending.
 * The depth changes by no more than the way, so a stretch whose ends lie deeper than it is long cuts nothing, and
 * others are halved.
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
  if (!Number.isFinite(length)) return cuts; // a place that is none cuts nothing
  const depthAt = (t: number) => {
    const { lat, lon } = alongStraight(from, to, t);
    return depth(lat, lon);
  };
  const search = (t1: number, d1: number, t2: number, d2: number) => {
    const part = (t2 - t1) * length;
    const crosses = d1 >= 0 !== d2 >= 0;
    // Straight in degrees is not quite straight on the ground: a little is allowed for.
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

/** Where a depth that changes its sign is 0, so near that it is all but straight: regula falsi, three times over. */
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

import type { Fix } from '../fix/fix.js';
import type { Position } from '../geodesy/position.js';
import { alongStraight } from '../geodesy/straight.js';
import { smoothPositions } from '../distance/smooth-positions.js';
import { labelsOf } from '../trail/part.js';
import { Trail } from '../trail/trail.js';
import { offsetTo, shifted } from './local-offset.js';
import { PLACE, smoothed, type Estimate } from './motion-filter.js';
import { MEMORY, type FilterState } from './path-filter.js';
import { FixFilter, knowledgeOf } from './fix-filter.js';
import { EstimateNumbers } from './estimate-numbers.js';

/** A fix with the filter's state at it; without one for a refused fix. */
interface Node {
  readonly raw: Fix;
  readonly knowledge: FilterState | undefined;
}

/** A continuous part of the path, and its rests. */
interface Run {
  readonly nodes: Node[];
  readonly rests: { readonly since: number; until: number }[];
}

/**
 * Smooths a finished trail. Where most fixes of a segment state their speed, runs `FixFilter` forward and a smoother
 * backward, so that each position is estimated from
 * earlier and later fixes; otherwise smooths the positions over some seconds, as their noise demands. A rest gets a
 * single position, its mean. One fix for each of the trail, at its own time, in
 * the same segments; a jump begins a segment. A refused fix is placed on the path between its neighbours. The raw trail
 * stays unchanged.
 */
export function smoothTrail(trail: Trail): Trail {
  const steady = new Trail(labelsOf(trail));
  for (const segment of trail.segments) {
    const raws = [...trail.fixesOf(segment)];
    const positions = statesSpeed(raws) ? undefined : smoothPositions(raws);
    if (positions !== undefined) {
      appendPlaces(steady, raws, positions);
      continue;
    }
    const filter = new FixFilter();
    let run: Run = { nodes: [], rests: [] };
    for (const raw of raws) {
      const { jump, rest } = filter.take(raw);
      if (jump) {
        appendRun(steady, run);
        run = { nodes: [], rests: [] };
      }
      const knowledge = knowledgeOf(filter);
      // A wholly refused fix left the state unchanged.
      run.nodes.push({ raw, knowledge: knowledge.time === raw.time ? knowledge : undefined });
      const last = run.rests.at(-1);
      if (rest !== undefined && last?.since === rest.since) last.until = raw.time;
      else if (rest !== undefined) run.rests.push({ since: rest.since, until: raw.time });
    }
    appendRun(steady, run);
  }
  return steady;
}

/** Smoothed estimates of a run; `undefined` for refused fixes. */
function smoothedEstimates(nodes: readonly Node[]): (Estimated | undefined)[] {
  const all: (Estimated | undefined)[] = Array.from({ length: nodes.length });
  let later: (Estimated & { readonly predicted: Estimate | undefined }) | undefined;
  for (let i = nodes.length - 1; i >= 0; i--) {
    const { knowledge } = nodes[i] as Node;
    if (knowledge === undefined) continue;
    const { origin, time, predicted } = knowledge;
    const estimate =
      later?.predicted === undefined
        ? knowledge.estimate
        : smoothed(
            knowledge.estimate,
            later.predicted,
            inOrigin(origin, later),
            (later.time - time) / 1000,
            MEMORY,
          );
    later = { origin, estimate, time, predicted };
    all[i] = later;
  }
  return all;
}

interface Estimated {
  readonly origin: Position;
  readonly estimate: Estimate;
  readonly time: number;
}

function appendRun(steady: Trail, { nodes, rests }: Run): void {
  const estimates = smoothedEstimates(nodes);
  const restAt = restFinder(estimates, rests);
  const places = estimates.map((estimated, i) => {
    if (estimated === undefined) return undefined;
    const { raw } = nodes[i] as Node;
    const rest = restAt(raw.time);
    const fix = new EstimateNumbers(estimated.origin, estimated.estimate).fixLike(raw, rest !== undefined);
    return rest === undefined ? fix : Object.freeze({ ...fix, ...rest });
  });
  appendPlaces(
    steady,
    nodes.map(({ raw }) => raw),
    places,
  );
}

/** Whether most fixes state their speed. */
function statesSpeed(fixes: readonly Fix[]): boolean {
  return 2 * fixes.filter(({ speed }) => speed !== undefined).length > fixes.length;
}

/** Appends a segment; a fix without a place is put on the path between its neighbours. */
function appendPlaces(steady: Trail, raws: readonly Fix[], places: readonly (Fix | undefined)[]): void {
  let before: Fix | undefined;
  let next = 0;
  raws.forEach((raw, i) => {
    const own = places[i];
    if (own === undefined) {
      next = Math.max(next, i);
      while (next < raws.length && places[next] === undefined) next++;
      steady.append(between(raw, before, places[next]));
    } else {
      steady.append(own);
      before = own;
    }
  });
  steady.breakSegment();
}

/** Returns the position of the rest at a time; for times in order. */
function restFinder(
  estimates: readonly (Estimated | undefined)[],
  rests: Run['rests'],
): (time: number) => Position | undefined {
  const found = rests.map(({ since, until }) => {
    let middle: Position | undefined;
    let count = 0;
    for (const estimated of estimates) {
      if (estimated === undefined || estimated.time < since || estimated.time > until) continue;
      const { origin, estimate } = estimated;
      const at = shifted(origin, { east: estimate[PLACE] as number, north: estimate[PLACE + 1] as number });
      middle = middle === undefined ? at : alongStraight(middle, at, 1 / (count + 1));
      count++;
    }
    return { since, until, middle };
  });
  let r = 0;
  return (time) => {
    while (r < found.length && time > (found[r] as { until: number }).until) r++;
    const rest = found[r];
    return rest !== undefined && time >= rest.since ? rest.middle : undefined;
  };
}

/** An estimate with another origin. */
function inOrigin(origin: Position, { origin: own, estimate }: Estimated): Estimate {
  const at = shifted(own, { east: estimate[PLACE] as number, north: estimate[PLACE + 1] as number });
  const { east, north } = offsetTo(origin, at);
  const moved = estimate.slice();
  moved[PLACE] = east;
  moved[PLACE + 1] = north;
  return moved;
}

/** A refused fix: on the straight line between its neighbours, or at the only one. */
function between(raw: Fix, before: Fix | undefined, after: Fix | undefined): Fix {
  const near = before ?? after;
  if (near === undefined) return raw;
  const step = (after?.time ?? near.time) - near.time;
  if (before === undefined || after === undefined || step <= 0) return { ...near, time: raw.time };
  // A fix older than the one before is not placed before it.
  const share = Math.max(0, Math.min(1, (raw.time - before.time) / step));
  return { ...before, ...alongStraight(before, after, share), time: raw.time };
}

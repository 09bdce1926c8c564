import type { Fix } from '../fix/fix.js';
import type { Position } from '../geodesy/position.js';
import { alongStraight } from '../geodesy/straight.js';
import { labelsOf } from '../trail/part.js';
import { Trail } from '../trail/trail.js';
import { offsetTo, shifted } from './local-offset.js';
import { PLACE, smoothed, type Belief } from './motion-filter.js';
import { MEMORY, type Knowledge } from './path-filter.js';
import { Steadier, knowledgeOf } from './steady.js';
import { SteadyNumbers } from './steady-fix.js';

/** A fix on its way through: what was known at it, or nothing when it was refused. */
interface Node {
  readonly raw: Fix;
  readonly knowledge: Knowledge | undefined;
}

/** A stretch of the path that joins on, and the rests in it. */
interface Run {
  readonly nodes: Node[];
  readonly rests: { readonly since: number; until: number }[];
}

/**
 * The best path that can be had of a finished trail: the filter of `Steadier` run forward and its smoother back, so
 * that each place is judged by what came before and after; a rest is at the one place in the middle of it. One fix for
 * each of the trail, at its own time, in segments as there; a jump begins a segment. A fix that was refused lies on the
 * path between its neighbours. The raw trail stays as it is.
 */
export function steadyTrail(trail: Trail): Trail {
  const steady = new Trail(labelsOf(trail));
  for (const segment of trail.segments) {
    const steadier = new Steadier();
    let run: Run = { nodes: [], rests: [] };
    for (const raw of trail.fixesOf(segment)) {
      const { jump, rest } = steadier.advance(raw);
      if (jump) {
        appendRun(steady, run);
        run = { nodes: [], rests: [] };
      }
      const knowledge = knowledgeOf(steadier);
      // A fix that was refused as a whole left what is known where it was.
      run.nodes.push({ raw, knowledge: knowledge.time === raw.time ? knowledge : undefined });
      const last = run.rests.at(-1);
      if (rest !== undefined && last?.since === rest.since) last.until = raw.time;
      else if (rest !== undefined) run.rests.push({ since: rest.since, until: raw.time });
    }
    appendRun(steady, run);
  }
  return steady;
}

/** What is believed of each place once all of a run is known; `undefined` where a fix was refused. */
function smoothedBeliefs(nodes: readonly Node[]): (Believed | undefined)[] {
  const all: (Believed | undefined)[] = Array.from({ length: nodes.length });
  let later: (Believed & { readonly foretold: Belief | undefined }) | undefined;
  for (let i = nodes.length - 1; i >= 0; i--) {
    const { knowledge } = nodes[i] as Node;
    if (knowledge === undefined) continue;
    const { origin, time, foretold } = knowledge;
    const belief =
      later?.foretold === undefined
        ? knowledge.belief
        : smoothed(
            knowledge.belief,
            later.foretold,
            inOrigin(origin, later),
            (later.time - time) / 1000,
            MEMORY,
          );
    later = { origin, belief, time, foretold };
    all[i] = later;
  }
  return all;
}

interface Believed {
  readonly origin: Position;
  readonly belief: Belief;
  readonly time: number;
}

function appendRun(steady: Trail, { nodes, rests }: Run): void {
  const beliefs = smoothedBeliefs(nodes);
  const restAt = restFinder(beliefs, rests);
  const places = beliefs.map((believed, i) => {
    if (believed === undefined) return undefined;
    const { raw } = nodes[i] as Node;
    const rest = restAt(raw.time);
    const fix = new SteadyNumbers(believed.origin, believed.belief).fixLike(raw, rest !== undefined);
    return rest === undefined ? fix : Object.freeze({ ...fix, ...rest });
  });
  let before: Fix | undefined;
  let next = 0;
  nodes.forEach(({ raw }, i) => {
    const own = places[i];
    if (own === undefined) {
      next = Math.max(next, i);
      while (next < nodes.length && places[next] === undefined) next++;
      steady.append(between(raw, before, places[next]));
    } else {
      steady.append(own);
      before = own;
    }
  });
  steady.breakSegment();
}

/** Gives the one place of the rest that a time falls in; for times in order. */
function restFinder(
  beliefs: readonly (Believed | undefined)[],
  rests: Run['rests'],
): (time: number) => Position | undefined {
  const found = rests.map(({ since, until }) => {
    let middle: Position | undefined;
    let count = 0;
    for (const believed of beliefs) {
      if (believed === undefined || believed.time < since || believed.time > until) continue;
      const { origin, belief } = believed;
      const at = shifted(origin, { east: belief[PLACE] as number, north: belief[PLACE + 1] as number });
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

/** A belief with its place told from another origin. */
function inOrigin(origin: Position, { origin: own, belief }: Believed): Belief {
  const at = shifted(own, { east: belief[PLACE] as number, north: belief[PLACE + 1] as number });
  const { east, north } = offsetTo(origin, at);
  const moved = belief.slice();
  moved[PLACE] = east;
  moved[PLACE + 1] = north;
  return moved;
}

/** A fix that was refused: on the straight line between those around it, or where the one that there is is. */
function between(raw: Fix, before: Fix | undefined, after: Fix | undefined): Fix {
  const near = before ?? after;
  if (near === undefined) return raw;
  const step = (after?.time ?? near.time) - near.time;
  if (before === undefined || after === undefined || step <= 0) return { ...near, time: raw.time };
  // One that is older than its predecessor is no further back than that.
  const share = Math.max(0, Math.min(1, (raw.time - before.time) / step));
  return { ...before, ...alongStraight(before, after, share), time: raw.time };
}

import type { Fix } from '../fix/fix.js';
import type { Position } from '../geodesy/position.js';
import { alongStraight } from '../geodesy/straight.js';
import { labelsOf } from '../trail/part.js';
import { Trail } from '../trail/trail.js';
import { offsetTo, shifted } from './local-offset.js';
import { PLACE, smoothed, type Belief } from './motion-filter.js';
import { MEMORY, Steadier, type Knowledge } from './steady.js';
import { steadyFix } from './steady-fix.js';

/** A fix on its way through: what was known at it, or nothing when it was refused. */
interface Node {
  readonly raw: Fix;
  readonly knowledge: Knowledge | undefined;
}

/**
 * The best path that can be had of a finished trail: the filter of `Steadier` run forward and its smoother back, so that each place is
 * judged by what came before and after. One fix for each of the trail, at its own time, in segments as there; a jump begins a segment.
 * A fix that was refused lies on the path between its neighbours. The raw trail stays as it is.
 */
export function steadyTrail(trail: Trail): Trail {
  const steady = new Trail(labelsOf(trail));
  for (const segment of trail.segments) {
    const steadier = new Steadier();
    let run: Node[] = [];
    for (const raw of trail.fixesOf(segment)) {
      const { refused, jump } = steadier.advance(raw);
      if (jump) {
        appendRun(steady, run);
        run = [];
      }
      run.push({ raw, knowledge: refused ? undefined : steadier.knowledge });
    }
    appendRun(steady, run);
  }
  return steady;
}

function appendRun(steady: Trail, run: readonly Node[]): void {
  const places: (Fix | undefined)[] = Array.from({ length: run.length });
  let later: { origin: Position; belief: Belief; time: number; foretold: Belief | undefined } | undefined;
  for (let i = run.length - 1; i >= 0; i--) {
    const { raw, knowledge } = run[i] as Node;
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
    places[i] = steadyFix(raw, origin, belief);
    later = { origin, belief, time, foretold };
  }
  let before: Fix | undefined;
  let next = 0;
  run.forEach(({ raw }, i) => {
    const own = places[i];
    if (own === undefined) {
      next = Math.max(next, i);
      while (next < run.length && places[next] === undefined) next++;
      steady.append(between(raw, before, places[next]));
    } else {
      steady.append(own);
      before = own;
    }
  });
  steady.breakSegment();
}

/** A belief with its place told from another origin. */
function inOrigin(
  origin: Position,
  { origin: own, belief }: { readonly origin: Position; readonly belief: Belief },
): Belief {
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

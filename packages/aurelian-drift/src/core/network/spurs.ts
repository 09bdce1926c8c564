import type { Stretch } from './lane-graph.js';

/** A stretch with the time at which it was begun. */
export interface TimedStretch extends Stretch {
  /** Milliseconds since 1970 UTC. */
  readonly time: number;
}

/** Passes with rising depth: the smallest spurs go first, so that what is left of a true turn is whole. */
const PASSES = [1 / 8, 1 / 4, 1 / 2, 1];
/** Metres within which two ends of stretches are one place. */
const ONE_PLACE = 0.01;

/**
 * A path without its spurs: where it turns back and retraces less than some metres, which is noise, both the way there
 * and back go.
 *
 * @param metres depth of the deepest spur.
 */
export function withoutSpurs(path: readonly TimedStretch[], metres: number): TimedStretch[] {
  return PASSES.reduce<TimedStretch[]>((rest, share) => pass(rest, share * metres), [...path]);
}

function pass(path: readonly TimedStretch[], metres: number): TimedStretch[] {
  const kept: TimedStretch[] = [];
  /** What is to come, the next last. */
  const coming = [...path].reverse();
  for (let next = coming.pop(); next !== undefined; next = coming.pop()) {
    const last = kept.at(-1);
    if (last !== undefined && continues(last, next)) {
      kept[kept.length - 1] = { ...last, to: next.to };
      continue;
    }
    if (last !== undefined && turnsBack(last, next)) {
      coming.push(next);
      const depth = retraced(kept, coming, metres);
      if (depth <= metres) {
        cut(kept, coming, depth);
        continue;
      }
      coming.pop();
    }
    kept.push(next);
  }
  return kept;
}

/** Metres for which what comes goes back over what was kept, up to a little more than a number of metres. */
function retraced(kept: readonly TimedStretch[], coming: readonly TimedStretch[], metres: number): number {
  let depth = 0;
  for (let i = 1; depth <= metres; i++) {
    const [there, back] = [kept[kept.length - i], coming[coming.length - i]];
    if (there === undefined || back === undefined || !turnsBack(there, back)) break;
    const shared = Math.min(lengthOf(there), lengthOf(back));
    depth += shared;
    if (lengthOf(there) !== lengthOf(back)) {
      // The longer of the two may go on with the next of the other.
      const next = lengthOf(back) > shared ? kept[kept.length - i - 1] : coming[coming.length - i - 1];
      const rest = lengthOf(back) > shared ? { ...back, from: there.from } : { ...there, to: back.to };
      if (
        next !== undefined &&
        turnsBack(lengthOf(back) > shared ? next : rest, lengthOf(back) > shared ? rest : next)
      )
        depth += Math.min(lengthOf(next), lengthOf(rest));
      break;
    }
  }
  return depth;
}

/** Takes some metres off the end of what was kept, and off the start of what comes. */
function cut(kept: TimedStretch[], coming: TimedStretch[], metres: number): void {
  for (let left = metres; left > 0;) {
    const last = kept.pop();
    if (last === undefined) break;
    const length = lengthOf(last);
    if (length > left) kept.push({ ...last, to: last.to - Math.sign(last.to - last.from) * left });
    left -= length;
  }
  for (let left = metres; left > 0;) {
    const next = coming.pop();
    if (next === undefined) break;
    const length = lengthOf(next);
    if (length > left) coming.push({ ...next, from: next.from + Math.sign(next.to - next.from) * left });
    left -= length;
  }
}

function continues(last: Stretch, next: Stretch): boolean {
  return (
    last.edge === next.edge &&
    Math.abs(last.to - next.from) < ONE_PLACE &&
    Math.sign(last.to - last.from) === Math.sign(next.to - next.from)
  );
}

function turnsBack(last: Stretch, next: Stretch): boolean {
  return (
    last.edge === next.edge &&
    Math.abs(last.to - next.from) < ONE_PLACE &&
    Math.sign(last.to - last.from) === -Math.sign(next.to - next.from)
  );
}

function lengthOf({ from, to }: Stretch): number {
  return Math.abs(to - from);
}

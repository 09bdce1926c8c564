import type { Fix } from '../fix/fix.js';
import type { Extras } from './extras.js';
import { Trail, type TrailLabels } from './trail.js';

/** A late fix with its additional data. */
export interface LateFix {
  readonly fix: Fix;
  readonly extras?: Extras | undefined;
}

/**
 * A trail with late fixes inserted by their times, as `Trail.insert` would do one by one. Costs one pass over the
 * trail, however many there are. Without any, returns the trail itself.
 */
export function withLate(trail: Trail, late: readonly LateFix[]): Trail {
  if (late.length === 0) return trail;
  const before = lateByIndex(trail, late);
  const merged = new Trail(labelsOf(trail));
  const take = (key: number) => {
    for (const { fix, extras } of before.get(key)?.reverse() ?? []) {
      merged.append(fix);
      for (const [text, value] of Object.entries(extras ?? {}))
        merged.setExtra(merged.length - 1, text, value);
    }
  };
  if (trail.length === 0) take(0);
  for (const { start, end } of trail.segments) {
    merged.breakSegment();
    for (let i = start; i < end; i++) {
      take(i);
      merged.appendFrom(trail, i);
    }
    take(end - 0.5);
  }
  if (trail.broken && trail.length > 0) merged.breakSegment();
  return merged;
}

/**
 * Late fixes by the index of the fix that they go before, the latest first. Between two segments there are two places
 * with one index: the one at the end of the first is half less.
 */
function lateByIndex(trail: Trail, late: readonly LateFix[]): Map<number, LateFix[]> {
  // The latest first: then segments and their places are visited once. Of equal times, the one that arrived last is
  // first.
  const sorted = late.toReversed().sort((a, b) => b.fix.time - a.fix.time);
  const { segments } = trail;
  /** Segments by their start; and for each the last one among those that begin no later. */
  const begun = segments
    .map(({ start }, s) => ({ time: trail.number(start, 'time'), s }))
    .sort((a, b) => a.time - b.time);
  let highest = 0;
  const latest = begun.map(({ s }) => (highest = Math.max(highest, s)));
  const indices = segments.map(({ end }) => end);
  let b = begun.length - 1;
  const before = new Map<number, LateFix[]>();
  for (const each of sorted) {
    const { time } = each.fix;
    while (b >= 0 && (begun[b]?.time as number) > time) b--;
    const s = latest[b] ?? 0;
    const { start, end } = segments[s] ?? { start: 0, end: NaN };
    let index = indices[s] ?? 0;
    while (index > start && trail.number(index - 1, 'time') > time) index--;
    indices[s] = index;
    const key = index === end ? index - 0.5 : index;
    const there = before.get(key);
    if (there === undefined) before.set(key, [each]);
    else there.push(each);
  }
  return before;
}

function labelsOf({ name, description, veiled, extras }: Trail): TrailLabels {
  return {
    ...(name !== undefined && { name }),
    ...(description !== undefined && { description }),
    ...(veiled !== undefined && { veiled }),
    ...(extras !== undefined && { extras }),
  };
}

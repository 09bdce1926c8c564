import type { Fix } from '../fix/fix.js';
import { Trail, type TrailLabels } from './trail.js';

/** The labels of a trail, without absent ones. */
export function labelsOf({ name, description, veiled, extras }: Trail): TrailLabels {
  return {
    ...(name !== undefined && { name }),
    ...(description !== undefined && { description }),
    ...(veiled !== undefined && { veiled }),
    ...(extras !== undefined && { extras }),
  };
}

/** A trail of the fixes that are marked 1, unchanged, in their segments. */
export function partOf(trail: Trail, marked: Uint8Array, labels: TrailLabels = labelsOf(trail)): Trail {
  const part = new Trail(labels);
  for (const { start, end } of trail.segments) {
    for (let i = marked.indexOf(1, start); i >= 0 && i < end; i = marked.indexOf(1, i + 1))
      part.appendFrom(trail, i);
    part.breakSegment();
  }
  return part;
}

/** Passes on a trail fix by fix, with a break after each segment. */
export function passThrough(trail: Trail, to: { take(fix: Fix): unknown; breakSegment(): void }): void {
  for (const segment of trail.segments) {
    for (const fix of trail.fixesOf(segment)) to.take(fix);
    to.breakSegment();
  }
}

/** Appends a trail to another, in its segments; the first continues the open segment when it is `joined`. */
export function appendTrail(trail: Trail, part: Trail, joined: boolean): void {
  if (!joined) trail.breakSegment();
  part.segments.forEach(({ start, end }, s) => {
    if (s > 0) trail.breakSegment();
    for (let i = start; i < end; i++) trail.appendFrom(part, i);
  });
  if (part.broken) trail.breakSegment();
}

import { Trail, type TrailLabels } from './trail.js';

/** The labels of a trail, those that it has. */
export function labelsOf({ name, description }: Trail): TrailLabels {
  return { ...(name !== undefined && { name }), ...(description !== undefined && { description }) };
}

/** A trail of those of another's fixes that are marked 1, as they are, in segments as there. */
export function partOf(trail: Trail, marked: Uint8Array, labels: TrailLabels = labelsOf(trail)): Trail {
  const part = new Trail(labels);
  for (const { start, end } of trail.segments) {
    for (let i = marked.indexOf(1, start); i >= 0 && i < end; i = marked.indexOf(1, i + 1))
      part.appendFrom(trail, i);
    part.breakSegment();
  }
  return part;
}

import type { Fence } from '../core/fence/fence.js';
import { fencesBounds } from '../core/fence/fences-bounds.js';
import { boundsAround, boundsOf, type Bounds } from '../core/geodesy/bounds.js';
import type { Position } from '../core/geodesy/position.js';

/** The box around what a map is to show; `undefined` when there is nothing. */
export function framedBounds(content: Bounds | Iterable<Position | Fence>): Bounds | undefined {
  if (isBounds(content)) return content;
  const fences: Fence[] = [];
  const positions: Position[] = [];
  for (const each of content) {
    if ('kind' in each) fences.push(each);
    else positions.push(each);
  }
  return boundsAround([boundsOf(positions), fencesBounds(fences)]);
}

function isBounds(content: Bounds | Iterable<unknown>): content is Bounds {
  return Array.isArray(content) && content.length === 4 && content.every((part) => typeof part === 'number');
}

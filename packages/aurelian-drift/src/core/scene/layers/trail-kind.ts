import { formatValue } from '../../check/number.js';
import { checkOptions, numberFrom, oneOf, optional, someObject } from '../../check/options.js';
import type { Trail } from '../../trail/trail.js';
import { layerKind } from '../layer-kind.js';
import { SmoothedOnSheet } from './smoothed-trail.js';
import { SHADINGS, TRAIL_PATHS, TrailOnSheet, type TrailLayer, type TrailPaint } from './trail.js';

function trailProblem(value: unknown): string | undefined {
  const trail = value as Partial<Trail> | null | undefined;
  return typeof trail?.number === 'function' && typeof trail.bounds === 'function'
    ? undefined
    : `must be a Trail, like that of a recorder or Trail.from(fixes), got ${formatValue(value)}`;
}

function checkPaint(paint: TrailPaint): void {
  checkOptions<Required<TrailPaint>>('the paint of a trail', paint as Required<TrailPaint>, {
    shade: oneOf(...SHADINGS),
    min: numberFrom(-1e9, 1e9, ''),
    max: numberFrom(-1e9, 1e9, ''),
    crumbs: someObject,
    path: oneOf(...TRAIL_PATHS),
  });
}

/** A trail as it is drawn: from fix to fix, or smoothed. */
type AnyTrailOnSheet = TrailOnSheet | SmoothedOnSheet;

export const TRAIL = layerKind<TrailLayer, AnyTrailOnSheet>({
  kind: 'trail',
  options: { trail: trailProblem, paint: optional(someObject) },
  prepare({ trail, paint = {} }, before) {
    checkPaint(paint);
    if ((paint.path ?? 'raw') === 'raw')
      return new TrailOnSheet(trail, paint, before instanceof TrailOnSheet ? before : undefined);
    return new SmoothedOnSheet(trail, paint, before instanceof SmoothedOnSheet ? before : undefined);
  },
});

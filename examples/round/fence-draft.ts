import { fencesFrom, timetable, type Fence, type Position } from 'aurelian-drift';

/* A fence while it is drawn: the corners that the user has set, and the conversion to a fence. */

export type DraftKind = 'outline' | 'circle' | 'lane';

export interface Draft {
  readonly id: string;
  readonly kind: DraftKind;
  readonly name: string;
  /** The corners of an outline, the centre of a circle, or the line of a corridor. */
  readonly places: readonly Position[];
  /** Radius of a circle, or half the width of a corridor. */
  readonly metres: number;
}

/** Minimum and maximum number of points of a draft of each kind. */
export const PLACES: Readonly<Record<DraftKind, readonly [min: number, max: number]>> = {
  outline: [3, 200],
  circle: [1, 1],
  lane: [2, 200],
};

/**
 * The fence that a draft describes.
 *
 * @throws {InputError} that says what is wrong, as for any fence in a file.
 */
export function fenceOf({ id, kind, name, places, metres }: Draft): Fence {
  const points = places.map(({ lat, lon }) => [lon, lat]);
  const shape = {
    outline: [{ type: 'Polygon', coordinates: [[...points, points[0]]] }, {}],
    circle: [{ type: 'Point', coordinates: points[0] }, { radius: metres }],
    lane: [{ type: 'LineString', coordinates: points }, { halfWidth: metres }],
  }[kind];
  const [geometry, numbers] = shape;
  const feature = { type: 'Feature', id, geometry, properties: { name, ...numbers } };
  return fencesFrom(feature, { timetable })[0] as Fence;
}

/**
 * The draft of an existing fence; `undefined` for a fence with several outlines or with holes, which cannot be drawn by
 * hand.
 */
export function draftOf(fence: Fence): Draft | undefined {
  const { id, name } = fence;
  if (fence.kind === 'circle')
    return { id, name, kind: 'circle', places: [fence.centre], metres: fence.radius };
  const pieces = fence.kind === 'corridor' ? fence.lines : fence.parts.flat();
  const [places] = pieces;
  if (places === undefined || pieces.length > 1) return undefined;
  return fence.kind === 'corridor'
    ? { id, name, kind: 'lane', places, metres: fence.halfWidth }
    : { id, name, kind: 'outline', places, metres: 30 };
}

/** A draft with one more corner after the last; a circle has one point, which is replaced. */
export function withPlace(draft: Draft, place: Position): Draft {
  return { ...draft, places: draft.kind === 'circle' ? [place] : [...draft.places, place] };
}

import type { SmoothedPath } from './position-smoother.js';

/** Rests that are shorter than this many seconds are slow movement. */
const SHORT_REST = 12;
/** Movement between two rests counts only if it lasts this many seconds or leads this many metres away. */
const SHORT_MOVE = 40;
const NEAR = 10;
/** Going away from a place and back within a minute and this many metres is noise. */
const EXCURSION = 60;
const FAR = 60;
/** Rests of this many seconds are compared with one another. */
const COMPARED = 5;
/** Radius in metres within which a slow spell is a rest; and, for longer ones, as a share of the way at usual speed. */
const ROOM = 12;
const SHARE = 0.17;
/** Greatest mean square of the speed in a rest, as a share of that of the usual speed. */
const SLOW = 0.4;

/** A run of fixes of one kind: indices of the first and the last. */
interface Spell {
  readonly from: number;
  readonly to: number;
  readonly moving: boolean;
}

/** What the fixes of a window show about motion. */
export interface MotionEvidence {
  readonly times: Float64Array;
  /** Path that is smooth enough to tell rest from motion. */
  readonly path: SmoothedPath;
  /** Squared speed at each fix without its noise, m²/s²; NaN where the fix has no weight. */
  readonly square: Float64Array;
  /** Usual speed of the user in motion, m/s. */
  readonly usual: number;
  readonly count: number;
}

/**
 * Corrects a first guess of motion at each fix: slow spells that lead too far are motion, movement that leads nowhere
 * is rest, and so is an excursion that returns to its place; what remains of rest for a moment is motion.
 *
 * @param moving 1 in motion, 0 at rest; receives the result.
 */
export function settleSpells(moving: Uint8Array, evidence: MotionEvidence): void {
  const { count } = evidence;
  for (const spell of spellsOf(moving, count)) {
    if (spell.moving) restIfIdle(moving, spell, evidence);
    else moveIfFar(moving, spell, evidence);
  }
  joinExcursions(moving, evidence);
  for (const { from, to, moving: moves } of spellsOf(moving, count)) {
    const inside = from > 0 && to < count - 1;
    if (!moves && inside && lasts(evidence, from, to) < SHORT_REST) moving.fill(1, from, to + 1);
  }
}

function spellsOf(moving: Uint8Array, count: number): Spell[] {
  const spells: Spell[] = [];
  for (let from = 0, k = 1; k <= count; k++) {
    if (k < count && moving[k] === moving[from]) continue;
    spells.push({ from, to: k - 1, moving: moving[from] === 1 });
    from = k;
  }
  return spells;
}

function lasts({ times }: MotionEvidence, from: number, to: number): number {
  return (times[to] as number) - (times[from] as number);
}

/** Short movement that leads nowhere is rest. */
function restIfIdle(moving: Uint8Array, { from, to }: Spell, evidence: MotionEvidence): void {
  if (from === 0 || to === evidence.count - 1 || lasts(evidence, from, to) >= SHORT_MOVE) return;
  if (apart(evidence.path, from, evidence.path, to) < NEAR) moving.fill(0, from, to + 1);
}

/** A slow spell is motion when its speeds are not those of a rest, and it leads away. */
function moveIfFar(moving: Uint8Array, { from, to }: Spell, evidence: MotionEvidence): void {
  const { square, usual, path } = evidence;
  let [sum, known] = [0, 0];
  for (let k = from; k <= to; k++) {
    const value = square[k] as number;
    if (Number.isNaN(value)) continue;
    sum += value;
    known++;
  }
  if (known === 0 || sum / known <= SLOW * usual * usual) return;
  const far = radiusOf(path, from, to, middleOf(path, from, to));
  if (far > Math.max(ROOM, SHARE * usual * lasts(evidence, from, to))) moving.fill(1, from, to + 1);
}

/** Movement between two rests at the same place is noise. */
function joinExcursions(moving: Uint8Array, evidence: MotionEvidence): void {
  const { times, path, count } = evidence;
  const rests = spellsOf(moving, count)
    .filter((spell) => !spell.moving && lasts(evidence, spell.from, spell.to) >= COMPARED)
    .map(({ from, to }) => ({ from, to, middle: middleOf(path, from, to) }));
  for (let i = 0; i < rests.length; i++) {
    const here = rests[i] as (typeof rests)[number];
    for (let j = rests.length - 1; j > i; j--) {
      const there = rests[j] as (typeof rests)[number];
      const away = (times[there.from] as number) - (times[here.to] as number);
      const between = Math.hypot(
        there.middle.east - here.middle.east,
        there.middle.north - here.middle.north,
      );
      if (away >= EXCURSION || between >= NEAR) continue;
      if (radiusOf(path, here.to, there.from, here.middle) >= FAR) continue;
      moving.fill(0, here.to, there.from + 1);
      break;
    }
  }
}

interface Point {
  readonly east: number;
  readonly north: number;
}

function middleOf(path: SmoothedPath, from: number, to: number): Point {
  let [east, north] = [0, 0];
  for (let k = from; k <= to; k++) {
    east += path.east[k] as number;
    north += path.north[k] as number;
  }
  return { east: east / (to - from + 1), north: north / (to - from + 1) };
}

/** Greatest distance of the path from a point. */
function radiusOf(path: SmoothedPath, from: number, to: number, { east, north }: Point): number {
  let max = 0;
  for (let k = from; k <= to; k++)
    max = Math.max(max, Math.hypot((path.east[k] as number) - east, (path.north[k] as number) - north));
  return max;
}

function apart(one: SmoothedPath, i: number, other: SmoothedPath, k: number): number {
  return Math.hypot(
    (other.east[k] as number) - (one.east[i] as number),
    (other.north[k] as number) - (one.north[i] as number),
  );
}

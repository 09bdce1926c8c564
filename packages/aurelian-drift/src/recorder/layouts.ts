import { InputError } from '../core/check/input-error.js';
import { fixOf, type Fix, type RawFix } from '../core/fix/fix.js';
import { encodeRecord } from '../core/trail/fix-record.js';
import { Trail } from '../core/trail/trail.js';
import type { Shelf, TrailHead } from './shelf.js';

/** The layout that is written: heads as `TrailHead`, records as bytes. */
export const LAYOUT = 3;

/**
 * A head of an older layout in the present one, its trail rewritten; any other head as it is.
 *
 * Layout 1 kept a trail whole, as `fixes` of the head: lists of fixes, one a segment. Layout 2 had no notes among its records.
 */
export async function bringForward(shelf: Shelf, id: string, head: unknown): Promise<unknown> {
  const version = (head as { version?: unknown } | null | undefined)?.version;
  if (version === 2) return { ...(head as object), version: LAYOUT };
  if (typeof head !== 'object' || head === null || version !== 1) return head;
  const { name, finished, segments } = head as { name?: unknown; finished?: unknown; segments?: unknown };
  const trail = new Trail(typeof name === 'string' ? { name } : {});
  const records = [];
  for (const segment of Array.isArray(segments) ? (segments as unknown[]) : []) {
    const fixes = (Array.isArray(segment) ? (segment as unknown[]) : []).flatMap(soundFix);
    for (const fix of fixes) trail.append(fix);
    trail.breakSegment();
    records.push({ kind: 'fixes', fixes } as const, { kind: 'break' } as const);
  }
  const { start, end, distance } = trail.summary();
  const newer: TrailHead = {
    version: LAYOUT,
    id,
    ...(trail.name !== undefined && { name: trail.name }),
    records: records.length,
    fixes: trail.length,
    ...(start !== undefined && { start }),
    ...(end !== undefined && { end }),
    distance,
    finished: finished === true,
  };
  await shelf.write(
    newer,
    records.map((record, number) => ({ number, bytes: encodeRecord(record) })),
  );
  return newer;
}

function soundFix(raw: unknown): Fix[] {
  try {
    return typeof raw === 'object' && raw !== null ? [fixOf(raw as RawFix)] : [];
  } catch (error) {
    if (error instanceof InputError) return [];
    throw error;
  }
}

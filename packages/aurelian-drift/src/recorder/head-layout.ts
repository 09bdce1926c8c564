import { InputError } from '../core/check/input-error.js';
import { isOfOtherVersion, keptText, readKept, type KeptKind } from '../core/check/kept-text.js';
import { count, finite, objectOf, optional, text, truth, within } from '../core/check/shape.js';
import type { TrailHead } from './shelf.js';

const KIND: KeptKind = { kind: 'trail-head', version: 1, what: 'the head of a trail' };

const LAYOUT = objectOf({
  id: text,
  name: optional(text),
  description: optional(text),
  records: count,
  fixes: count,
  start: optional(finite),
  end: optional(finite),
  distance: within(0, Infinity),
  finished: truth,
});

/** The head of a trail as text to keep. */
export function headText({
  id,
  name,
  description,
  records,
  fixes,
  start,
  end,
  distance,
  finished,
}: TrailHead): string {
  return keptText(KIND, { id, name, description, records, fixes, start, end, distance, finished });
}

/** @throws {InputError} of kind `bad-value` for a head that is damaged or of another version. */
export function headOfText(kept: unknown): TrailHead {
  const { value } = readKept(KIND, kept);
  const damaged = LAYOUT(value);
  if (damaged !== undefined)
    throw new InputError('bad-value', `the head of a trail is damaged: ${damaged || 'it'}`);
  return value as TrailHead;
}

/** Whether a head was kept by a version whose trails cannot be read here. */
export function isHeadOfOtherVersion(kept: unknown): boolean {
  return isOfOtherVersion(KIND, kept);
}

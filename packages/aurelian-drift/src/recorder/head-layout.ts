import { isOfOtherVersion, keptText, readKept, type KeptKind } from '../core/check/kept-text.js';
import {
  count,
  finite,
  objectOf,
  optional,
  refuseDamaged,
  text,
  truth,
  within,
} from '../core/check/shape.js';
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

/** The head of a trail as text to store. */
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
  refuseDamaged(value, LAYOUT, 'this is not a valid head of a trail');
  return value as TrailHead;
}

/** Whether a head was stored by a version whose trails cannot be read here. */
export function isHeadOfOtherVersion(kept: unknown): boolean {
  return isOfOtherVersion(KIND, kept);
}

import { InputError } from '../check/input-error.js';
import { DATUMS, MARKS, ORIGINS, fixOf, type Fix, type Mark } from '../fix/fix.js';

/** Numbers of a fix, in the order they are written, as doubles; NaN is absent. */
const NUMBERS = [
  'time',
  'lat',
  'lon',
  'accuracy',
  'altitude',
  'altitudeAccuracy',
  'course',
  'speed',
] as const;
/** Bytes of a fix: its numbers, its origin and datum, its marks. */
const FIX_BYTES = NUMBERS.length * 8 + 3;
/** The kind of record, and a check on the rest. */
const HEAD_BYTES = 5;
const FIXES = 1;
const BREAK = 2;
const NOTE = 3;

/** What is kept of a trail in one piece: fixes of one segment, the break between two, or a note. */
export type FixRecord =
  | { readonly kind: 'fixes'; readonly fixes: readonly Fix[] }
  | { readonly kind: 'break' }
  /** What the app keeps with the trail at this point of it. */
  | { readonly kind: 'note'; readonly text: Uint8Array };

/** A record as bytes: its kind, a check value (Adler-32, RFC 1950), and each fix in little-endian doubles, or the note as it is. */
export function encodeRecord(record: FixRecord): Uint8Array {
  const fixes = record.kind === 'fixes' ? record.fixes : [];
  const note = record.kind === 'note' ? record.text : [];
  const bytes = new Uint8Array(HEAD_BYTES + fixes.length * FIX_BYTES + note.length);
  const view = new DataView(bytes.buffer);
  bytes[0] = { fixes: FIXES, break: BREAK, note: NOTE }[record.kind];
  bytes.set(note, HEAD_BYTES);
  fixes.forEach((fix, i) => {
    let at = HEAD_BYTES + i * FIX_BYTES;
    for (const name of NUMBERS) {
      view.setFloat64(at, fix[name] ?? NaN, true);
      at += 8;
    }
    bytes[at] = ORIGINS.indexOf(fix.origin);
    bytes[at + 1] = DATUMS.indexOf(fix.altitudeDatum ?? 'unknown');
    bytes[at + 2] = (fix.marks ?? []).reduce((bits, mark) => bits | (1 << MARKS.indexOf(mark)), 0);
  });
  view.setUint32(1, adler32(bytes), true);
  return bytes;
}

/**
 * The record of some bytes.
 *
 * @throws {InputError} of kind `cut-short` or `bad-value` for bytes that are none, or were damaged.
 */
export function decodeRecord(bytes: Uint8Array): FixRecord {
  const count = (bytes.length - HEAD_BYTES) / FIX_BYTES;
  if (count < 0 || !(bytes[0] === NOTE || Number.isInteger(count)))
    throw new InputError('cut-short', `a kept record of ${bytes.length} bytes is not whole`);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  if (view.getUint32(1, true) !== adler32(bytes))
    throw new InputError('bad-value', 'a kept record is damaged');
  if (bytes[0] === BREAK) return { kind: 'break' };
  if (bytes[0] === NOTE) return { kind: 'note', text: bytes.subarray(HEAD_BYTES) };
  if (bytes[0] !== FIXES)
    throw new InputError('bad-value', `a kept record is of the unknown kind ${bytes[0]}`);
  return {
    kind: 'fixes',
    fixes: Array.from({ length: count }, (_, i) => fixAt(bytes, view, HEAD_BYTES + i * FIX_BYTES)),
  };
}

function fixAt(bytes: Uint8Array, view: DataView, start: number): Fix {
  const numbers = Object.fromEntries(NUMBERS.map((name, i) => [name, view.getFloat64(start + i * 8, true)]));
  const at = start + NUMBERS.length * 8;
  const bits = bytes[at + 2] as number;
  return fixOf({
    ...(numbers as Record<(typeof NUMBERS)[number], number>),
    origin: ORIGINS[bytes[at] as number],
    altitudeDatum: DATUMS[bytes[at + 1] as number],
    marks: MARKS.filter((_mark: Mark, i) => (bits & (1 << i)) !== 0),
  });
}

/** Adler-32 of the kind and of what follows the check value itself. */
function adler32(bytes: Uint8Array): number {
  let a = 1 + (bytes[0] as number);
  let b = a;
  for (let i = HEAD_BYTES; i < bytes.length; i++) {
    a = (a + (bytes[i] as number)) % 65_521;
    b = (b + a) % 65_521;
  }
  return b * 65_536 + a;
}

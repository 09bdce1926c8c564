import { InputError } from '../check/input-error.js';
import { crc32 } from '../check/crc32.js';
import { fixFrom, type AltitudeDatum, type Fix, type Mark, type Origin } from '../fix/fix.js';

/** Numbers of a fix, in the order in which they are written, as doubles; NaN for absent. */
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
/**
 * Start of every record: a letter that identifies it, the version of its layout, its kind, and a checksum of four
 * bytes.
 */
const LETTER = 0x44;
const VERSION = 1;
const SUM_AT = 3;
const HEAD_BYTES = 7;
const FIXES = 1;
const BREAK = 2;
const NOTE = 3;
/** Words of a fix as they are stored: by their index in these lists, to which words are only appended. */
const KEPT_ORIGINS: readonly Origin[] = [
  'unknown',
  'satellite',
  'network',
  'manual',
  'simulated',
  'replayed',
];
const KEPT_DATUMS: readonly AltitudeDatum[] = ['unknown', 'ellipsoid', 'sea'];
const KEPT_MARKS: readonly Mark[] = [
  'cached',
  'coarse',
  'late',
  'duplicate',
  'backwards',
  'outlier',
  'planned-gap',
  'stale',
  'clock-set',
];
/** Bits of the byte of the datum that hold the datum; the marks beyond the eighth are above. */
const DATUM_BITS = 4;

/** A stored piece of a trail: fixes of one segment, a segment break, or a note. */
export type FixRecord =
  | { readonly kind: 'fixes'; readonly fixes: readonly Fix[] }
  | { readonly kind: 'break' }
  /** What the app keeps with the trail at this point of it. */
  | { readonly kind: 'note'; readonly text: Uint8Array };

/**
 * Encodes a record, layout 1: its head, then each fix in little-endian doubles and three bytes of words, or the note as
 * it is. The checksum is the CRC-32 of everything else.
 */
export function encodeRecord(record: FixRecord): Uint8Array {
  const fixes = record.kind === 'fixes' ? record.fixes : [];
  const note = record.kind === 'note' ? record.text : [];
  const bytes = new Uint8Array(HEAD_BYTES + fixes.length * FIX_BYTES + note.length);
  const view = new DataView(bytes.buffer);
  bytes.set([LETTER, VERSION, { fixes: FIXES, break: BREAK, note: NOTE }[record.kind]]);
  bytes.set(note, HEAD_BYTES);
  fixes.forEach((fix, i) => {
    let at = HEAD_BYTES + i * FIX_BYTES;
    for (const name of NUMBERS) {
      view.setFloat64(at, fix[name] ?? NaN, true);
      at += 8;
    }
    bytes[at] = KEPT_ORIGINS.indexOf(fix.origin);
    const marks = (fix.marks ?? []).reduce((bits, mark) => bits | (1 << KEPT_MARKS.indexOf(mark)), 0);
    bytes[at + 1] = KEPT_DATUMS.indexOf(fix.altitudeDatum ?? 'unknown') | ((marks >> 8) << DATUM_BITS);
    bytes[at + 2] = marks & 0xff;
  });
  view.setUint32(SUM_AT, sumOf(bytes), true);
  return bytes;
}

/**
 * Decodes a record.
 *
 * @throws {InputError} of kind `cut-short` or `bad-value` for bytes that are not a record, or are damaged.
 */
export function decodeRecord(bytes: Uint8Array): FixRecord {
  const [letter, version, kind] = bytes;
  if (bytes.length < HEAD_BYTES || letter !== LETTER)
    throw new InputError('cut-short', `${bytes.length} kept bytes are no whole record of layout ${VERSION}`);
  if ((version as number) > VERSION)
    throw new InputError(
      'bad-value',
      `a kept record has layout ${version}; this version reads up to ${VERSION}`,
    );
  const count = (bytes.length - HEAD_BYTES) / FIX_BYTES;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  if (view.getUint32(SUM_AT, true) !== sumOf(bytes))
    throw new InputError('bad-value', 'a stored record is damaged');
  if (kind === BREAK) return { kind: 'break' };
  if (kind === NOTE) return { kind: 'note', text: bytes.subarray(HEAD_BYTES) };
  if (kind !== FIXES || !Number.isInteger(count))
    throw new InputError('bad-value', `a stored record has the unknown kind ${kind}`);
  return {
    kind: 'fixes',
    fixes: Array.from({ length: count }, (_, i) => fixAt(bytes, view, HEAD_BYTES + i * FIX_BYTES)),
  };
}

function fixAt(bytes: Uint8Array, view: DataView, start: number): Fix {
  const numbers = Object.fromEntries(NUMBERS.map((name, i) => [name, view.getFloat64(start + i * 8, true)]));
  const at = start + NUMBERS.length * 8;
  const kind = bytes[at + 1] as number;
  const bits = (bytes[at + 2] as number) | ((kind >> DATUM_BITS) << 8);
  return fixFrom({
    ...(numbers as Record<(typeof NUMBERS)[number], number>),
    origin: KEPT_ORIGINS[bytes[at] as number],
    altitudeDatum: KEPT_DATUMS[kind & ((1 << DATUM_BITS) - 1)],
    marks: KEPT_MARKS.filter((_mark, i) => (bits & (1 << i)) !== 0),
  });
}

/** The checksum of a record, over everything else. */
function sumOf(bytes: Uint8Array): number {
  return crc32(bytes.subarray(0, SUM_AT), bytes.subarray(HEAD_BYTES));
}

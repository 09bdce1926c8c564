import { crc32 } from './crc32.js';
import { InputError } from './input-error.js';
import { utf8Of } from './utf8.js';

/**
 * Format of all texts that are stored between runs: `aurelian-drift KIND VERSION SUM JSON`. VERSION is the version of
 * the layout, SUM the CRC-32 of the JSON in UTF-8 as eight hexadecimal digits. A layout lists its own field names, so
 * that it stays the same when a class changes.
 */
const KEPT = /^aurelian-drift ([a-z-]+) (\d{1,9}) ([0-9a-f]{8}) /;
const SUM_DIGITS = 8;

/** Kind of stored text: its name, the version of the layout that is written, and its name in messages. */
export interface KeptKind {
  readonly kind: string;
  readonly version: number;
  readonly what: string;
}

/** Writes a value as a stored text. The value is plain data, without `undefined` in lists. */
export function keptText({ kind, version }: KeptKind, value: unknown): string {
  const json = JSON.stringify(value);
  return `aurelian-drift ${kind} ${version} ${crc32(utf8Of(json)).toString(16).padStart(SUM_DIGITS, '0')} ${json}`;
}

/**
 * Reads the value and the layout version of a stored text. The caller checks that the value has this layout.
 *
 * @throws {InputError} of kind `bad-value` for a text of version 0.1, of a later version than this one, of another
 *   kind, or with damage.
 */
export function readKept(
  kind: KeptKind,
  kept: unknown,
): { readonly version: number; readonly value: unknown } {
  const { version, what } = kind;
  if (isOfFirst(kept))
    throw new InputError('bad-value', `this is ${what} as version 0.1 kept it, which is not read any more`);
  const parts = partsOf(kept);
  if (parts?.name !== kind.kind) throw new InputError('bad-value', `this is not ${what}, or it is damaged`);
  if (!parts.sound) throw new InputError('bad-value', `${what} is damaged: its check sum is wrong`);
  if (parts.version > version) {
    const reason = `this is ${what} in layout ${parts.version}; this version reads up to ${version}`;
    throw new InputError('bad-value', reason, {}, 'Update the library');
  }
  return { version: parts.version, value: JSON.parse(parts.json) as unknown };
}

/**
 * Whether data was stored by version 0.1 or by a later version than this one: it is intact, but cannot be read here.
 */
export function isOfOtherVersion({ kind, version }: KeptKind, kept: unknown): boolean {
  const parts = partsOf(kept);
  return isOfFirst(kept) || (parts?.sound === true && parts.name === kind && parts.version > version);
}

function partsOf(kept: unknown) {
  if (typeof kept !== 'string') return undefined;
  const head = KEPT.exec(kept);
  if (head === null) return undefined;
  const [start, name = '', version, sum = ''] = head;
  const json = kept.slice(start.length);
  return { name, version: Number(version), sound: crc32(utf8Of(json)) === Number.parseInt(sum, 16), json };
}

/** Version 0.1 stored objects, or their JSON, with a small number as the version. */
function isOfFirst(kept: unknown): boolean {
  let value = kept;
  try {
    if (typeof kept === 'string' && kept.startsWith('{')) value = JSON.parse(kept);
  } catch {
    return false;
  }
  if (typeof value !== 'object' || value === null) return false;
  const { version } = value as { readonly version?: unknown };
  return version === 1 || version === 2 || version === 3;
}

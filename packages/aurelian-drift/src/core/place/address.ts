import { InputError } from '../check/input-error.js';
import { formatValue } from '../check/number.js';
import { suggestion } from '../check/suggest.js';
import { ADDRESS_PARTS, type Address, type AddressPart } from './place.js';

/*
 * Formats of addresses by country: lines separated by " / ", with the text that joins the parts. The orders are those
 * of the postal administrations, as published by the Universal Postal Union (addressing systems of its members, S42).
 */
const NUMBER_FIRST = 'houseNumber street / locality / region / postalCode / country';
const NUMBER_FIRST_STATE = 'houseNumber street / locality, region postalCode / country';
const STREET_FIRST = 'street houseNumber / postalCode locality / region / country';
const COMMA_NUMBER = 'street, houseNumber / postalCode locality / region / country';
const PATTERNS: Readonly<Record<string, string>> = {
  GB: NUMBER_FIRST,
  IE: NUMBER_FIRST,
  NZ: 'houseNumber street / locality postalCode / region / country',
  ZA: NUMBER_FIRST,
  US: NUMBER_FIRST_STATE,
  CA: NUMBER_FIRST_STATE,
  AU: NUMBER_FIRST_STATE,
  FR: 'houseNumber street / postalCode locality / region / country',
  LU: 'houseNumber, street / postalCode locality / region / country',
  DE: STREET_FIRST,
  AT: STREET_FIRST,
  CH: STREET_FIRST,
  NL: STREET_FIRST,
  BE: STREET_FIRST,
  DK: STREET_FIRST,
  NO: STREET_FIRST,
  SE: STREET_FIRST,
  FI: STREET_FIRST,
  IS: STREET_FIRST,
  PL: STREET_FIRST,
  CZ: STREET_FIRST,
  SK: STREET_FIRST,
  SI: STREET_FIRST,
  HR: STREET_FIRST,
  EE: STREET_FIRST,
  GR: STREET_FIRST,
  TR: STREET_FIRST,
  ES: COMMA_NUMBER,
  IT: COMMA_NUMBER,
  PT: COMMA_NUMBER,
  BR: 'street, houseNumber / locality - region / postalCode / country',
  HU: 'locality / street houseNumber / postalCode / region / country',
  JP: 'postalCode / region locality street houseNumber / country',
  CN: 'country / region locality street houseNumber / postalCode',
  KR: 'region locality street houseNumber / postalCode / country',
};

/** For an unknown country: number, street, locality, then the coarser parts. */
const PLAIN = 'houseNumber street / locality / region postalCode / country';

/** Country whose format is used: an ISO 3166-1 code of two letters, or `plain`. */
export type AddressPattern = string;

/** Codes with a known format. */
export const ADDRESS_PATTERNS: readonly string[] = ['plain', ...Object.keys(PATTERNS).sort()];

/** Rule for an option. */
export function patternProblem(value: unknown): string | undefined {
  if (typeof value === 'string' && ADDRESS_PATTERNS.includes(value)) return undefined;
  return (
    `must be an ISO 3166-1 code in capitals or "plain", got ${formatValue(value)}, ` +
    suggestion(value, ADDRESS_PATTERNS)
  );
}

/**
 * Writes an address as lines. Missing parts leave no empty line, no double space, and no separator without both sides.
 *
 * @param pattern format of a country. Default: that of the address's own `country` when its code is known, otherwise
 *   number, street, locality.
 * @param parts parts to write. Default: all.
 * @throws {InputError} for an unknown pattern.
 */
export function addressLines(
  address: Address,
  pattern?: AddressPattern,
  parts: readonly AddressPart[] = ADDRESS_PARTS,
): string[] {
  const problem = pattern === undefined ? undefined : patternProblem(pattern);
  if (problem !== undefined) throw new InputError('bad-value', `the address pattern ${problem}`);
  const own = pattern ?? address.country ?? '';
  return linesOf(Object.hasOwn(PATTERNS, own) ? own : 'plain')
    .map((line) => lineText(line, address, parts))
    .filter((line) => line !== '');
}

/** The same on one line. */
export function addressText(
  address: Address,
  pattern?: AddressPattern,
  parts?: readonly AddressPart[],
): string {
  return addressLines(address, pattern, parts).join(', ');
}

function lineText(line: readonly Piece[], address: Address, parts: readonly AddressPart[]): string {
  let text = '';
  for (const { joint, part } of line) {
    const value = parts.includes(part) ? address[part]?.trim() : undefined;
    if (value !== undefined && value !== '') text += text === '' ? value : `${joint}${value}`;
  }
  return text;
}

/** A part, and the separator before it, which is written only after another part. */
interface Piece {
  readonly joint: string;
  readonly part: AddressPart;
}

const PIECE = new RegExp(`(.*?)(${ADDRESS_PARTS.join('|')})`, 'g');
const READ = new Map<string, readonly (readonly Piece[])[]>();

/** The lines of a pattern, parsed once. */
function linesOf(name: string): readonly (readonly Piece[])[] {
  const known = READ.get(name);
  if (known !== undefined) return known;
  const lines = (PATTERNS[name] ?? PLAIN)
    .split(' / ')
    .map((line) =>
      [...line.matchAll(PIECE)].map(([, joint = '', part]) => ({ joint, part: part as AddressPart })),
    );
  READ.set(name, lines);
  return lines;
}

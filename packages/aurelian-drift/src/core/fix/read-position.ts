import { InputError } from '../check/input-error.js';
import { readGeoUri } from '../formats/geo-uri.js';
import { positionProblem, type Position } from '../geodesy/position.js';

/** A number with a decimal dot or comma. */
const NUMBER = String.raw`\d{1,3}(?:[.,]\d+)?`;
/** Degrees, with minutes and seconds if they are marked. */
const SIZE = String.raw`([-+])?\s*(${NUMBER})(?:\s*°\s*(?:(${NUMBER})\s*['′]\s*(?:(${NUMBER})\s*(?:["″]|'')\s*)?)?)?`;
const LETTER = '([NSEW])';
const BETWEEN = String.raw`(?:\s*[,;]\s*|\s+)`;
const LED = new RegExp(String.raw`^${LETTER}\s*${SIZE}${BETWEEN}${LETTER}\s*${SIZE}$`, 'i');
const TRAILED = new RegExp(String.raw`^${SIZE}\s*${LETTER}?${BETWEEN}${SIZE}\s*${LETTER}?$`, 'i');
/** Maximum length of a text: that of a geo URI with some parameters. */
const LONGEST_TYPED = 200;
/** Two bare integers are not taken as a position: they may be house numbers. */
const SIGN_OF_POSITION = /[-+.,;°NSEW]/i;

/**
 * Reads a position that a user typed: `44.2031, -33.5812`, `44,2031; -33,5812`, `44.2031° N 33.5812° W`, `44°12′11″N
 * 33°34′52″W`, or a geo URI (RFC 5870). Latitude first, unless letters state otherwise. Returns `undefined` for other
 * texts.
 *
 * @throws {InputError} of kind `impossible-position` for numbers out of range, and of kind `bad-value` for a text of
 *   over 200 characters.
 */
export function readPosition(text: string): Position | undefined {
  if (text.length > LONGEST_TYPED) {
    const reason = `a typed position has at most ${LONGEST_TYPED} characters, got ${text.length}`;
    throw new InputError('bad-value', reason);
  }
  const plain = text
    .trim()
    // One blank says as much as many, and keeps the expressions below from trying every way to divide them.
    .replaceAll(/\s+/g, ' ')
    .replaceAll('\u2212', '-')
    .replaceAll('\u2019', '\u2032')
    .replaceAll('\u201D', '\u2033');
  const geo = readGeoUri(plain);
  if (geo !== undefined) return { lat: geo.lat, lon: geo.lon };
  const angles = SIGN_OF_POSITION.test(plain) ? anglesOf(plain) : undefined;
  const [first, second] = angles ?? [];
  if (first === undefined || second === undefined) return undefined;
  const swapped = first.letter === 'E' || first.letter === 'W';
  const isLatitude = ({ letter }: { letter: string | undefined }) => letter === 'N' || letter === 'S';
  const sameKind =
    first.letter !== undefined && second.letter !== undefined && isLatitude(first) === isLatitude(second);
  if (sameKind) {
    const twice = isLatitude(first) ? 'latitudes' : 'longitudes';
    throw new InputError('impossible-position', `"${text.trim()}" has two ${twice}`);
  }
  return swapped || isLatitude(second)
    ? checked(second.degrees, first.degrees)
    : checked(first.degrees, second.degrees);
}

interface Angle {
  readonly degrees: number;
  readonly letter: string | undefined;
}

function anglesOf(text: string): [Angle | undefined, Angle | undefined] | undefined {
  const led = LED.exec(text);
  if (led !== null) return [angleOf(led[1], led.slice(2, 6)), angleOf(led[6], led.slice(7, 11))];
  const trailed = TRAILED.exec(text);
  if (trailed === null) return undefined;
  return [angleOf(trailed[5], trailed.slice(1, 5)), angleOf(trailed[10], trailed.slice(6, 10))];
}

function angleOf(
  letterAsTyped: string | undefined,
  parts: readonly (string | undefined)[],
): Angle | undefined {
  const [sign, ...sizes] = parts;
  const letter = letterAsTyped?.toUpperCase();
  const [degrees = 0, minutes = 0, seconds = 0] = sizes.map((part) =>
    Number((part ?? '0').replace(',', '.')),
  );
  if (minutes >= 60 || seconds >= 60) return undefined;
  const size = degrees + minutes / 60 + seconds / 3600;
  return { degrees: sign === '-' || letter === 'S' || letter === 'W' ? -size : size, letter };
}

function checked(lat: number, lon: number): Position {
  const problem = positionProblem(lat, lon);
  if (problem !== undefined) throw new InputError('impossible-position', problem);
  return { lat: lat + 0, lon: lon + 0 };
}

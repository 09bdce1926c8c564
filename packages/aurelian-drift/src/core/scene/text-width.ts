import { REGULAR_WIDTHS, SEMIBOLD_WIDTHS } from './font-widths.js';

/** Measures a text in pixels, in the font that draws it. */
export type MeasureText = (text: string, size: number, weight?: 400 | 600) => number;

/** Letters that take no room of their own: combining marks, joiners, signs of direction, selectors of a variant. */
const NO_ROOM = /^[\p{Mn}\p{Me}\p{Cf}]$/u;
/** Letters as wide as they are high, and pictures. */
const WIDE = /^[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Hangul}\uff01-\uff60]$/u;
const PICTURE = /^\p{Extended_Pictographic}$/u;
/** Thousandths of the letter size: of a wide letter, of a picture, and of any other unknown one, which is an n. */
const [WIDE_WIDTH, PICTURE_WIDTH, OTHER_WIDTH] = [1000, 1300, 600];

/**
 * Width of a text in Source Sans 3 in pixels, so that a layout needs no screen. Letters that this font does not have
 * are estimated.
 */
export function textWidth(text: string, size: number, weight: 400 | 600 = 400): number {
  const widths = weight === 600 ? SEMIBOLD_WIDTHS : REGULAR_WIDTHS;
  let thousandths = 0;
  for (const letter of text) {
    const code = letter.codePointAt(0) ?? 0;
    const index = code >= 160 && code <= 255 ? code - 65 : code - 32;
    thousandths += (code < 160 || code <= 255 ? widths[index] : undefined) ?? unknownWidth(letter);
  }
  return (thousandths * size) / 1000;
}

function unknownWidth(letter: string): number {
  if (NO_ROOM.test(letter)) return 0;
  if (WIDE.test(letter)) return WIDE_WIDTH;
  return PICTURE.test(letter) ? PICTURE_WIDTH : OTHER_WIDTH;
}

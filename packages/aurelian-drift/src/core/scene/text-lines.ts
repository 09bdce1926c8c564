import type { MeasureText } from './text-width.js';

const MORE = '…';
/** Characters of a text that are looked at: no label shows more. */
const LONGEST = 2000;

/** A text that fits into a width in pixels; a longer one is cut after a whole letter, with an ellipsis. */
export function cutText(text: string, width: number, measure: (text: string) => number): string {
  if (text.length <= LONGEST && measure(text) <= width) return text;
  const letters = lettersOf(text);
  // The longest start that fits, by bisection: a text from outside may be very long.
  let [fits, over] = [0, letters.length];
  while (over - fits > 1) {
    const middle = (fits + over) >> 1;
    if (measure(letters.slice(0, middle).join('').trimEnd() + MORE) <= width) fits = middle;
    else over = middle;
  }
  return letters.slice(0, fits).join('').trimEnd() + MORE;
}

/**
 * A text in lines of at most a width in pixels, broken at spaces, and inside a word that is wider; what does not fit
 * into the last line is cut.
 */
export function linesOf(
  text: string,
  { width, lines: max, size, weight }: { width: number; lines: number; size: number; weight?: 400 | 600 },
  measureText: MeasureText,
): string[] {
  const measure = (part: string) => measureText(part, size, weight);
  const lines: string[] = [];
  let rest = text.slice(0, LONGEST).replace(/\s+/gu, ' ').trim();
  while (rest !== '' && lines.length < max - 1 && measure(rest) > width) {
    const end = lineEnd(rest, width, measure);
    lines.push(rest.slice(0, end).trimEnd());
    rest = rest.slice(end).trimStart();
  }
  return rest === '' ? lines : [...lines, cutText(rest, width, measure)];
}

/** End of the first line: the last space before the edge, else the last letter before it. */
function lineEnd(text: string, width: number, measure: (text: string) => number): number {
  const letters = lettersOf(text);
  let [fits, over] = [1, letters.length];
  while (over - fits > 1) {
    const middle = (fits + over) >> 1;
    if (measure(letters.slice(0, middle).join('').trimEnd()) <= width) fits = middle;
    else over = middle;
  }
  const start = letters.slice(0, fits).join('');
  if (letters[fits] === ' ') return start.length;
  const space = start.lastIndexOf(' ');
  return space > 0 ? space : start.length;
}

/** Letters as people see them: an emoji of several signs, or a letter with its marks, is one. */
function lettersOf(text: string): string[] {
  return Array.from(new Intl.Segmenter().segment(text.slice(0, LONGEST)), ({ segment }) => segment);
}

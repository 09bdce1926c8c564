/** A range of words, from one index to another (excluded), that match with a number of changed letters. */
export interface Match {
  readonly from: number;
  readonly to: number;
  readonly slips: number;
}

/** Maximum length of a word that is compared. */
const LONGEST = 40;
/** Wider than any row of the table of changes. */
const WIDTH = LONGEST + 2;
const TABLE = new Uint8Array((LONGEST + 1) * WIDTH);
/** By row: minimum number of changes for the whole word in this row or above, and for any part of it in this row. */
const BEST = new Uint8Array(LONGEST + 1);
const LOWEST = new Uint8Array(LONGEST + 1);

/**
 * Words of a sorted vocabulary that start with almost the same letters as another: with up to `max` letters inserted,
 * left out, replaced or swapped with a neighbour (optimal string alignment).
 *
 * The vocabulary is visited as a tree of beginnings: a row of the table is computed once for all words with the same
 * beginning, only as wide as the changes reach (Ukkonen 1985), and a beginning that cannot match is skipped with all
 * its words.
 */
export function misspelt(words: readonly string[], word: string, max: number): Match[] {
  const length = Math.min(word.length, LONGEST);
  for (let i = 0; i <= length; i++) TABLE[i] = Math.min(i, max + 1);
  BEST[0] = Math.min(length, max + 1);
  LOWEST[0] = 0;
  const found: Match[] = [];
  let before = '';
  /** Number of rows that are valid for the word before. */
  let known = 0;
  for (let w = 0; w < words.length; w++) {
    const candidate = words[w] as string;
    let depth = Math.min(known, sharedLength(before, candidate));
    before = candidate;
    let end = w + 1;
    const deepest = Math.min(candidate.length, LONGEST, length + max);
    while (depth < deepest) {
      depth++;
      nextRow(depth, candidate, word, length, max);
      // Two rows without a match end the search, because a swap spans one.
      if ((LOWEST[depth] as number) > max && (LOWEST[depth - 1] as number) > max) break;
    }
    known = depth;
    // After these letters the word is decided, whatever follows.
    if (depth < candidate.length) end = endOfBeginning(words, w, candidate.slice(0, depth));
    const slips = BEST[depth] as number;
    if (slips <= max) found.push({ from: w, to: end, slips });
    w = end - 1;
  }
  return found;
}

function nextRow(depth: number, candidate: string, word: string, length: number, max: number): void {
  const row = depth * WIDTH;
  const above = row - WIDTH;
  const tooMany = max + 1;
  const letter = candidate.charCodeAt(depth - 1);
  const letterBefore = depth > 1 ? candidate.charCodeAt(depth - 2) : -1;
  // Cells farther than `max` from the diagonal need more changes than that.
  const from = Math.max(1, depth - max);
  const to = Math.min(length, depth + max);
  TABLE[row + from - 1] = from === 1 ? Math.min(depth, tooMany) : tooMany;
  if (to + 1 <= length) TABLE[row + to + 1] = tooMany;
  let lowest = from === 1 ? Math.min(depth, tooMany) : tooMany;
  for (let i = from; i <= to; i++) {
    const other = word.charCodeAt(i - 1);
    let cost = (TABLE[above + i - 1] as number) + (letter === other ? 0 : 1);
    // The cell above the last one of a growing row was never computed.
    const over = i === depth + max ? tooMany : (TABLE[above + i] as number) + 1;
    const back = (TABLE[row + i - 1] as number) + 1;
    if (over < cost) cost = over;
    if (back < cost) cost = back;
    if (i > 1 && depth > 1 && letter === word.charCodeAt(i - 2) && letterBefore === other) {
      const swapped = (TABLE[above - WIDTH + i - 2] as number) + 1;
      if (swapped < cost) cost = swapped;
    }
    if (cost > tooMany) cost = tooMany;
    TABLE[row + i] = cost;
    if (cost < lowest) lowest = cost;
  }
  LOWEST[depth] = lowest;
  const whole = to === length && depth + max >= length ? (TABLE[row + length] as number) : tooMany;
  BEST[depth] = Math.min(BEST[depth - 1] as number, whole);
}

function sharedLength(a: string, b: string): number {
  const max = Math.min(a.length, b.length);
  let i = 0;
  while (i < max && a.charCodeAt(i) === b.charCodeAt(i)) i++;
  return i;
}

/** Index after the last word, from `w` on, with the same beginning. */
function endOfBeginning(words: readonly string[], w: number, beginning: string): number {
  // They are adjacent: the step is doubled while they last, and then halved.
  let step = 1;
  let end = w + 1;
  while (end < words.length && (words[end] as string).startsWith(beginning)) {
    end += step;
    step *= 2;
  }
  let low = Math.max(w + 1, end - step);
  let high = Math.min(end, words.length);
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((words[middle] as string).startsWith(beginning)) low = middle + 1;
    else high = middle;
  }
  return low;
}

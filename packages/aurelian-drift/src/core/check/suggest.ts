import { ourWordFor } from './other-words.js';

/** Maximum length of a name that is compared, in characters: a longer one is not a misspelling. */
const LONGEST = 100;

/**
 * The known name that is most similar to a misspelt one; `undefined` when none is similar.
 *
 * Similar means that at most a given share of the letters differ, by optimal string alignment (insert, delete, replace,
 * swap neighbours), ignoring case; a single change always counts as similar. A name of over 100 characters is similar
 * to none.
 */
export function closest(name: string, known: Iterable<string>, share = 1 / 3): string | undefined {
  if (name.length > LONGEST) return undefined;
  let best: string | undefined;
  let min = Math.max(1, Math.floor(name.length * share)) + 1;
  for (const candidate of known) {
    const changes = alignment(name.toLowerCase(), candidate.toLowerCase());
    if (changes < min) {
      min = changes;
      best = candidate;
    }
  }
  return best;
}

/**
 * End of an error message: `did you mean "x"?`, our name for the name of another interface, or the list of known names.
 * A value that is not a text gets the list.
 */
export function suggestion(name: unknown, known: readonly string[]): string {
  const word = typeof name === 'string' ? name : '';
  const ours = ourWordFor(word, known);
  if (ours !== undefined) return ours;
  const near = word === '' ? undefined : closest(word, known);
  return near === undefined ? `known: ${known.join(', ')}` : `did you mean "${near}"?`;
}

function alignment(a: string, b: string): number {
  const width = b.length + 1;
  const cost = new Uint16Array((a.length + 1) * width);
  const at = (i: number, j: number) => cost[i * width + j] ?? 0;
  for (let i = 0; i <= a.length; i++) cost[i * width] = i;
  for (let j = 0; j <= b.length; j++) cost[j] = j;
  for (let i = 1; i <= a.length; i++) {
    for (let j = 1; j <= b.length; j++) {
      const same = a[i - 1] === b[j - 1] ? 0 : 1;
      let min = Math.min(at(i - 1, j) + 1, at(i, j - 1) + 1, at(i - 1, j - 1) + same);
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1]) {
        min = Math.min(min, at(i - 2, j - 2) + 1);
      }
      cost[i * width + j] = min;
    }
  }
  return at(a.length, b.length);
}

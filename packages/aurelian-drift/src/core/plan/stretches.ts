/** Stretches of a line, in metres along it: apart from each other, in order. */
export type Stretches = readonly (readonly [from: number, to: number])[];

/** The stretches together with one more; `slack` metres between two count as none. */
export function withStretch(stretches: Stretches, from: number, to: number, slack: number): Stretches {
  const [low, high] = [Math.min(from, to), Math.max(from, to)];
  const before = stretches.filter(([, end]) => end < low - slack);
  const after = stretches.filter(([start]) => start > high + slack);
  const joined = stretches.slice(before.length, stretches.length - after.length);
  const start = Math.min(low, joined[0]?.[0] ?? low);
  const end = Math.max(high, joined.at(-1)?.[1] ?? high);
  return [...before, [start, end], ...after];
}

/** Metres of all stretches together. */
export function lengthOf(stretches: Stretches): number {
  return stretches.reduce((sum, [from, to]) => sum + to - from, 0);
}

/** What is left between two places of the line. */
export function withoutStretches(stretches: Stretches, from: number, to: number): Stretches {
  const left: (readonly [number, number])[] = [];
  let at = from;
  for (const [start, end] of stretches) {
    if (end <= at) continue;
    if (start >= to) break;
    if (start > at) left.push([at, start]);
    at = Math.max(at, end);
  }
  if (at < to) left.push([at, to]);
  return left;
}

/** Whether a place is in one of the stretches. */
export function includes(stretches: Stretches, along: number): boolean {
  return stretches.some(([from, to]) => along >= from && along <= to);
}

/** One line of the report: what was measured, beside what, and the number to reach. */
export interface Row {
  readonly what: string;
  readonly ours: string;
  readonly baseline: string;
  readonly ratio: string;
  readonly goal: string;
  readonly met: boolean;
}

/**
 * Seconds that two ways of doing the same take: the least of rounds in which both are run, one after the other. What a
 * round takes beyond the least is the machine's other work.
 */
export function beside(
  ours: () => unknown,
  baseline: () => unknown,
  rounds = 15,
): { ours: number; baseline: number } {
  const times = { ours: [] as number[], baseline: [] as number[] };
  for (let round = -2; round < rounds; round++) {
    for (const [name, run] of [
      ['ours', ours],
      ['baseline', baseline],
    ] as const) {
      // prettier-ignore
      const start = performance.now();
      run();
      if (round >= 0) times[name].push((performance.now() - start) / 1000); // the first two warm up
    }
  }
  return { ours: Math.min(...times.ours), baseline: Math.min(...times.baseline) };
}

/** Bytes that the heap and its buffers grow by. */
export function bytesFor(work: () => void): number {
  const used = () => {
    globalThis.gc?.();
    const { heapUsed, arrayBuffers } = process.memoryUsage();
    return heapUsed + arrayBuffers;
  };
  if (globalThis.gc === undefined) throw new Error('run with --expose-gc: npm run bench does');
  const before = used();
  work();
  return used() - before;
}

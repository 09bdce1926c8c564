/** One line of the report: the measured value, its baseline, and the target. */
export interface Row {
  readonly what: string;
  readonly ours: string;
  readonly baseline: string;
  readonly ratio: string;
  readonly goal: string;
  readonly met: boolean;
}

/**
 * Seconds of two ways to do the same work: the shortest of several rounds, in which both run one after the other. Time
 * above the shortest is other work of the machine.
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
      const start = performance.now();
      run();
      if (round >= 0) times[name].push((performance.now() - start) / 1000); // two warm-up rounds
    }
  }
  return { ours: Math.min(...times.ours), baseline: Math.min(...times.baseline) };
}

/** Growth of the heap and its buffers, in bytes. */
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

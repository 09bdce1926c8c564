/* Times workloads in the checkout that contains this file: one run for each message, which names the workload. */
import { WORKLOADS } from './workloads.js';

/** An answer to the parent process: seconds and result of a run, or the reason why it failed. */
export interface Timed {
  readonly seconds?: number;
  readonly result?: string;
  readonly problem?: string;
}

const prepared = new Map<string, () => unknown>();
process.on('message', (name: string) => void time(name));

async function time(name: string): Promise<void> {
  let timed: Timed;
  try {
    const work = prepared.get(name) ?? (WORKLOADS[name] as () => () => unknown)();
    prepared.set(name, work);
    const start = performance.now();
    const result = String(await work());
    timed = { seconds: (performance.now() - start) / 1000, result };
  } catch (error) {
    timed = { problem: error instanceof Error ? error.message : String(error) };
  }
  process.send?.(timed);
}

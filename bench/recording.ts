import { Recorder, fixFrom, memoryStore } from 'aurelian-drift';
import type { Row } from './measure.js';

const FIXES = 1_000_000;
const PART = 20_000;

/** Cost of a fix in a recorder and its store, near the first fix and near the millionth. */
export async function recordingRow(): Promise<Row> {
  const recorder = new Recorder({ store: memoryStore(), name: 'Long round' });
  recorder.start();
  const parts: number[] = [];
  for (let from = 0; from < FIXES; from += PART) {
    const start = performance.now();
    for (let i = from; i < from + PART; i++) {
      recorder.take(
        fixFrom({
          time: 1.7e12 + i * 1000,
          lat: 44 + i * 1e-6,
          lon: -33.6,
          accuracy: 5,
          altitude: i % 90,
          speed: 1,
        }),
      );
    }
    while (recorder.kept < from + PART) await new Promise((resolve) => setImmediate(resolve));
    parts.push(((performance.now() - start) / PART) * 1000);
  }
  // The first part is left out, because the engine warms up in it. The shortest of the other parts counts, because the
  // machine also does other work.
  const early = Math.min(...parts.slice(1, 6));
  const late = Math.min(...parts.slice(-5));
  const ratio = late / early;
  return {
    what: 'recording a fix, near the 1 000 000th',
    ours: `${late.toFixed(2)} µs`,
    baseline: `near the 100 000th ${early.toFixed(2)} µs`,
    ratio: `${ratio.toFixed(2)} ×`,
    goal: '≤ 1.25 ×',
    met: ratio <= 1.25,
  };
}

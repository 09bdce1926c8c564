/*
 * npm run bench: measures, prints, and with --write renews docs/benchmarks.md.
 * npm run bench -- --against REV [--rows a,b] [--rounds N]: compares rows with an earlier commit.
 */
import { parseArgs } from 'node:util';

try {
  const { values } = parseArgs({
    options: {
      write: { type: 'boolean', default: false },
      against: { type: 'string' },
      rows: { type: 'string' },
      rounds: { type: 'string', default: '15' },
    },
  });
  if (values.against === undefined) {
    if (values.rows !== undefined) throw new Error('--rows goes with --against');
    await (await import('./all.js')).measureAll(values.write);
  } else {
    if (values.write) throw new Error('--write does not go with --against');
    const rounds = Number(values.rounds);
    if (!Number.isInteger(rounds) || rounds < 1 || rounds > 1000)
      throw new Error('--rounds is a number from 1 to 1000');
    const { WORKLOADS } = await import('./against/workloads.js');
    const { compareWith } = await import('./against/compare.js');
    await compareWith(values.against, values.rows?.split(',') ?? Object.keys(WORKLOADS), rounds);
  }
} catch (error) {
  if (!(error instanceof Error)) throw error;
  console.error(`bench: ${error.message}`);
  process.exitCode = 2;
}

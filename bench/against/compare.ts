/*
 * npm run bench -- --against REV: times the same workloads in this checkout and in an earlier commit, in alternating
 * runs, and prints the ratio of the two times.
 */
import { suggestion } from 'aurelian-drift/internal';
import { fork, spawnSync, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { cpSync, mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { lendPackages } from '../../scripts/setup.mjs';
import type { Timed } from './worker.js';
import { WORKLOADS } from './workloads.js';

const root = fileURLToPath(new URL('../..', import.meta.url));
/** Warm-up runs of each side; they are not counted. */
const WARM_UP = 2;

/** @throws {Error} with a message for the user, if the commit or a row does not exist. */
export async function compareWith(revision: string, rows: readonly string[], rounds: number): Promise<void> {
  const unknown = rows.find((row) => !Object.hasOwn(WORKLOADS, row));
  if (unknown !== undefined)
    throw new Error(`there is no row "${unknown}", ${suggestion(unknown, Object.keys(WORKLOADS))}`);
  const { status, stdout } = spawnSync('git', ['rev-parse', '--verify', '--short', `${revision}^{commit}`], {
    cwd: root,
    encoding: 'utf8',
  });
  if (status !== 0) throw new Error(`"${revision}" is no commit of this repository`);
  const commit = stdout.trim();
  const folder = checkoutOf(commit);
  const workers: ChildProcess[] = [];
  try {
    const [now, then] = [root, folder].map((checkout) => {
      const worker = fork(join(checkout, 'bench/against/worker.ts'), {
        cwd: checkout,
        execArgv: ['--conditions=aurelian-source', `--import=${import.meta.resolve('tsx')}`],
      });
      workers.push(worker);
      return worker;
    }) as [ChildProcess, ChildProcess];
    console.log(
      `Seconds of a run, median of ${rounds}; times as long as in ${commit}: median, and from the ` +
        `lower to the upper quartile.\n`,
    );
    console.log(`| Row | ${commit} | Now | Ratio | Quartiles |\n| --- | --- | --- | --- | --- |`);
    for (const row of rows) console.log(await lineOf(row, now, then, rounds));
  } finally {
    for (const worker of workers) worker.kill();
    rmSync(folder, { recursive: true, force: true });
  }
}

/** Checks out the files of a commit, adds the workloads of this checkout, and links the installed packages. */
function checkoutOf(commit: string): string {
  const folder = join(root, `build/against-${commit}-${process.pid}`);
  mkdirSync(folder, { recursive: true });
  const archive = spawnSync('git', ['archive', commit], { cwd: root, maxBuffer: 1e9 });
  const unpacked = spawnSync('tar', ['-x', '-C', folder], { input: archive.stdout });
  if (archive.status !== 0 || unpacked.status !== 0) throw new Error(`the files of ${commit} cannot be read`);
  cpSync(join(root, 'bench/against'), join(folder, 'bench/against'), { recursive: true });
  lendPackages(folder);
  return folder;
}

async function lineOf(row: string, now: ChildProcess, then: ChildProcess, rounds: number): Promise<string> {
  const times: { now: number; then: number }[] = [];
  let note = '';
  for (let round = -WARM_UP; round < rounds; round++) {
    // The two sides take turns at going first, because the first run heats the machine for the second.
    const order = round % 2 === 0 ? [now, then] : [then, now];
    const first = await timed(order[0] as ChildProcess, row);
    const second = await timed(order[1] as ChildProcess, row);
    const [ours, theirs] = order[0] === now ? [first, second] : [second, first];
    const problem = ours.problem ?? theirs.problem;
    if (problem !== undefined) return `| ${row} | cannot be compared: ${problem} | | | |`;
    if (ours.result !== theirs.result) note = ` (result ${theirs.result ?? ''}, now ${ours.result ?? ''})`;
    if (round >= 0) times.push({ now: ours.seconds ?? NaN, then: theirs.seconds ?? NaN });
  }
  const ratios = times.map((time) => time.now / time.then);
  const seconds = (list: readonly number[]) => `${quantile(list, 0.5).toFixed(3)} s`;
  const [low, middle, high] = [0.25, 0.5, 0.75].map((share) => quantile(ratios, share).toFixed(2));
  return (
    `| ${row}${note} | ${seconds(times.map((time) => time.then))} | ` +
    `${seconds(times.map((time) => time.now))} | ${middle} × | ${low} to ${high} |`
  );
}

async function timed(worker: ChildProcess, row: string): Promise<Timed> {
  if (worker.exitCode !== null) return { problem: 'its process has ended' };
  const over = new AbortController();
  const ended = once(worker, 'exit', over).then(() => [{ problem: 'its process has ended' }]);
  ended.catch(() => {}); // the worker continues
  const answer = Promise.race([once(worker, 'message', over), ended]);
  worker.send(row);
  const [timing] = (await answer) as [Timed];
  over.abort();
  return timing;
}

function quantile(values: readonly number[], share: number): number {
  const sorted = values.toSorted((a, b) => a - b);
  const at = share * (sorted.length - 1);
  const low = sorted[Math.floor(at)] ?? NaN;
  return low + (at - Math.floor(at)) * ((sorted[Math.ceil(at)] ?? NaN) - low);
}

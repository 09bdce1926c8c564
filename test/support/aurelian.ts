import { spawn } from 'node:child_process';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const main = fileURLToPath(
  new URL('../../packages/aurelian-drift-node/dist/bin/aurelian.js', import.meta.url),
);

export interface Outcome {
  readonly code: number | null;
  readonly out: string;
  readonly err: string;
  /** Each line of output as JSON. */
  json(): any[]; // eslint-disable-line @typescript-eslint/no-explicit-any -- tests look at whatever came
}

export interface Running {
  /** Output so far. */
  readonly out: () => string;
  readonly err: () => string;
  readonly kill: (signal: NodeJS.Signals) => void;
  readonly over: Promise<Outcome>;
}

/** Runs the built command line in a folder, and waits for its end. */
export function aurelian(folder: string, words: readonly string[], input?: string): Promise<Outcome> {
  return started(folder, words, { input: input ?? '' }).over;
}

/** Runs the built command line in a folder. */
export function started(
  folder: string,
  words: readonly string[],
  { input = '', env = {} }: { readonly input?: string; readonly env?: Readonly<Record<string, string>> } = {},
): Running {
  const child = spawn(process.execPath, [main, ...words], { cwd: folder, env: { ...process.env, ...env } });
  let out = '';
  let err = '';
  child.stdout.setEncoding('utf8').on('data', (text: string) => (out += text));
  child.stderr.setEncoding('utf8').on('data', (text: string) => (err += text));
  child.stdin.on('error', () => {}); // a command may end without reading its input
  child.stdin.end(input);
  const over = new Promise<Outcome>((resolve, reject) => {
    child.on('error', reject);
    child.on('close', (code) => {
      const json = () =>
        out
          .trimEnd()
          .split('\n')
          .map((line) => JSON.parse(line) as unknown);
      resolve({ code, out, err, json });
    });
  });
  return { out: () => out, err: () => err, kill: (signal) => void child.kill(signal), over };
}

/** A folder for the tests of one describe block, emptied and removed after it. */
export function workFolder(): { path: string } {
  const folder = { path: '' };
  before(async () => {
    folder.path = await mkdtemp(join(tmpdir(), 'drift-'));
  });
  after(() => rm(folder.path, { recursive: true }));
  return folder;
}

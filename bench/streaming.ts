import { spawnSync } from 'node:child_process';
import { closeSync, mkdtempSync, openSync, rmSync, statSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Trail, writeGpx } from 'aurelian-drift';
import { journey } from 'aurelian-drift/testing';
import type { Row } from './measure.js';

const SIZE = 1e9;
const MAX = 300e6;

/** Peak memory of `convert` and `summary --raw` with a file of 1 GB. */
export function streamingRows(): Row[] {
  const folder = mkdtempSync(join(tmpdir(), 'drift-bench-'));
  try {
    const big = join(folder, 'big.gpx');
    const fixes = writeBig(big);
    const size = statSync(big).size;
    return [
      ['convert to KML', ['convert', big, join(folder, 'big.kml')]],
      ['summary --raw', ['summary', big, '--raw', '--json']],
    ].map(([what, words]) => {
      const { peak, seconds } = run(words as string[]);
      return {
        what: `memory of ${what as string}, ${(size / 1e9).toFixed(2)} GB of GPX, ${fixes} fixes`,
        ours: `${(peak / 1e6).toFixed(0)} MB, ${(size / 1e6 / seconds).toFixed(0)} MB/s`,
        baseline: `the file ${(size / 1e6).toFixed(0)} MB`,
        ratio: `${(peak / size).toFixed(2)} ×`,
        goal: '≤ 300 MB',
        met: peak <= MAX,
      };
    });
  } finally {
    rmSync(folder, { recursive: true });
  }
}

/** Writes a track that repeats one walk. Returns the number of fixes. */
function writeBig(path: string): number {
  const trail = new Trail({ name: 'Long walk' });
  const line = {
    parts: [
      [
        { lat: 44.2, lon: -33.6, altitude: 10 },
        { lat: 44.4, lon: -33.6, altitude: 90 },
      ],
    ],
  };
  for (const { fix } of journey(line, { seed: 3 })) if (fix !== undefined) trail.append(fix);
  const text = writeGpx({ trails: [trail] });
  const start = text.indexOf('<trkpt');
  const end = text.indexOf('</trkseg>');
  const points = text.slice(start, end);
  const file = openSync(path, 'w');
  writeSync(file, text.slice(0, start));
  let times = 0;
  for (let size = 0; size < SIZE; size += points.length, times++) writeSync(file, points);
  writeSync(file, text.slice(end));
  closeSync(file);
  return times * trail.length;
}

/** Runs a command. Returns its peak memory in bytes, and seconds. */
function run(words: readonly string[]): { peak: number; seconds: number } {
  const main = fileURLToPath(
    new URL('../packages/aurelian-drift-node/dist/bin/aurelian.js', import.meta.url),
  );
  const report =
    `data:text/javascript,process.on('exit',()=>process.stderr.write('peak ` +
    `'+process.resourceUsage().maxRSS))`;
  const started = performance.now();
  const { status, stderr } = spawnSync(process.execPath, ['--import', report, main, ...words], {
    encoding: 'utf8',
  });
  const peak = Number(/peak (\d+)$/.exec(stderr)?.[1]) * 1024;
  if (status !== 0 || !(peak > 0)) throw new Error(`${words.join(' ')}: ${stderr}`);
  return { peak, seconds: (performance.now() - started) / 1000 };
}

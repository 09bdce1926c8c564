import { readGpx } from 'aurelian-drift';
import { expect } from 'chai';
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { aurelian, started, workFolder } from '../support/aurelian.js';

const root = fileURLToPath(new URL('../..', import.meta.url));
const main = join(root, 'packages/aurelian-drift-node/dist/bin/aurelian.js');

/**
 * Runs Node in a shell that limits files to some kilobytes: the system then writes a part of the data and refuses the
 * rest, as it does on a full disk.
 */
async function cramped(kilobytes: number, folder: string, words: readonly string[]) {
  const quoted = words.map((word) => `'${word.replaceAll("'", `'\\''`)}'`).join(' ');
  const script = `trap '' XFSZ; ulimit -f ${kilobytes}; exec '${process.execPath}' ${quoted}`;
  const child = spawn('bash', ['-c', script], { cwd: folder, stdio: ['ignore', 'pipe', 'pipe'] });
  let [out, err] = ['', ''];
  child.stdout.setEncoding('utf8').on('data', (text: string) => (out += text));
  child.stderr.setEncoding('utf8').on('data', (text: string) => (err += text));
  const [code] = (await once(child, 'close')) as [number | null];
  return { code, out, err };
}

describe('a full disk', () => {
  const work = workFolder();

  it('leaves a trail file that can be read, with all that was reported kept and no hole', async () => {
    const path = join(work.path, 'kept.gpx');
    const script = `
      import { Recorder, fixFrom } from '${root}packages/aurelian-drift/dist/index.js';
      import { gpxFileWriter } from '${root}packages/aurelian-drift-node/dist/index.js';
      const writer = await gpxFileWriter('${path}');
      let kept = 0;
      let problem = '';
      for (let i = 0; i < 400 && problem === ''; i++) {
        const fix = fixFrom({ time: Date.UTC(2026, 4, 14, 8) + i * 1000, lat: 44.2 + i * 1e-4, lon: -33.6,
          accuracy: 5 });
        await writer.append([fix]).then(() => kept++, (error) => (problem = error.code));
      }
      console.log(JSON.stringify({ kept, problem }));`;
    const { out } = await cramped(8, root, ['--input-type=module', '-e', script]);
    const { kept, problem } = JSON.parse(out) as { kept: number; problem: string };
    expect(problem).to.equal('EFBIG');
    const text = await readFile(path, 'utf8');
    expect(text).not.to.include('\0');
    const [trail] = readGpx(text).trails;
    expect(trail!.length).to.equal(kept);
    expect(kept).to.be.within(20, 100); // 8 KiB, at 100 to 300 bytes a fix
  });

  it(
    'while recording is reported by the command, which fails and names the file written ' + 'so far',
    async () => {
      const { code, err } = await cramped(16, work.path, [
        main,
        'follow',
        'demo',
        '--tempo',
        'max',
        '--record',
        'full.gpx',
      ]);
      expect(code).to.equal(1);
      expect(err).to.match(/full\.gpx: EFBIG.*fixes are in the file for certain, the others wait in memory/);
      const [trail] = readGpx(await readFile(join(work.path, 'full.gpx'), 'utf8')).trails;
      expect(trail!.length).to.be.above(20);
    },
  );

  it('and a file that exists already is reported at once, before the follow starts', async () => {
    await aurelian(work.path, ['simulate', 'demo', '-o', 'there.gpx']);
    const before = await readFile(join(work.path, 'there.gpx'), 'utf8');
    // At a walk's pace this would take an hour.
    const { code, out, err } = await started(work.path, [
      'follow',
      'demo',
      '--tempo',
      'real',
      '--record',
      'there.gpx',
    ]).over;
    expect([code, out]).to.deep.equal([1, '']);
    expect(err).to.include('there.gpx: a file with this name exists already');
    expect(await readFile(join(work.path, 'there.gpx'), 'utf8')).to.equal(before);
  });
});

import { expect } from 'chai';
import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { connect, createServer } from 'node:net';
import { fileURLToPath } from 'node:url';
import { eventually } from '../support/eventually.js';

const root = fileURLToPath(new URL('../..', import.meta.url));

/** Whether a local port accepts connections. */
async function isTaken(port: number): Promise<boolean> {
  const socket = connect(port, 'localhost');
  const taken = await new Promise<boolean>((resolve) => {
    socket.once('connect', () => resolve(true));
    socket.once('error', () => resolve(false));
  });
  socket.destroy();
  return taken;
}

describe('npm start', function () {
  this.timeout(240_000);
  const children: ChildProcess[] = [];
  after(() => {
    for (const child of children) child.kill('SIGKILL');
  });

  it('takes the next free ports when its own are taken, and ends its server when it is asked to end', async () => {
    const holder = createServer();
    // Taken by this test, or already by another process.
    holder.on('error', () => undefined);
    holder.listen(4173, 'localhost');
    await eventually(async () => expect(await isTaken(4173)).to.equal(true));
    const child = spawn(process.execPath, ['scripts/start.mjs'], {
      cwd: root,
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    children.push(child);
    let out = '';
    child.stdout.setEncoding('utf8').on('data', (text: string) => (out += text));
    child.stderr.resume();
    await eventually(() => expect(out).to.include('Ctrl+C ends'), 200);
    expect(out).to.match(/Port 4173 or 4174 is taken; these are \d+ and \d+\./);
    const port = Number(/pages at http:\/\/localhost:(\d+)\//.exec(out)![1]);
    expect(port).to.be.above(4173);
    expect((await fetch(`http://localhost:${port}/`)).status).to.equal(200);
    child.kill('SIGTERM');
    await once(child, 'exit');
    expect([await isTaken(port), await isTaken(port + 1)]).to.deep.equal([false, false]);
    holder.close();
  });
});

describe('an unknown command', () => {
  it('is refused also before --help and below another command, with a suggestion', async () => {
    const { aurelian } = await import('../support/aurelian.js');
    for (const [words, text] of [
      [['nonsense', '--help'], "unknown command 'nonsense'\n(Commands: tour"],
      [['sumary', '-h'], 'Did you mean summary?'],
      [['party', 'wach', '--help'], 'Did you mean watch?'],
      [['help', 'rapport'], "unknown command 'rapport'"],
    ] as const) {
      const { code, out, err } = await aurelian(root, words);
      expect([code, out], words.join(' ')).to.deep.equal([2, '']);
      expect(err).to.include(text);
    }
    for (const words of [['--help'], ['help', 'map'], ['party', 'divide', '--help']])
      expect((await aurelian(root, words)).code, words.join(' ')).to.equal(0);
  });
});

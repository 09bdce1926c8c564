import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';

const file = new URL('../../packages/aurelian-drift/package.json', import.meta.url);
const { exports } = JSON.parse(readFileSync(file, 'utf8')) as { exports: Readonly<Record<string, unknown>> };
const entries = Object.keys(exports).filter((entry) => !entry.includes('*') && !entry.endsWith('.json'));

describe('every entry', () => {
  it('imports in Node, which has no page, and says nothing', () => {
    const names = entries.map((entry) => `aurelian-drift${entry.slice(1)}`);
    const script = `for (const name of ${JSON.stringify(names)}) console.log(name, Object.keys(await import(name)).length > 0);`;
    const node = ['--conditions=aurelian-source', '--import=tsx', '--input-type=module', '-e', script];
    const { stdout, stderr } = spawnSync(process.execPath, node, { encoding: 'utf8' });
    expect(stderr).to.equal('');
    expect(stdout.trim().split('\n')).to.deep.equal(names.map((name) => `${name} true`));
    expect(names.length).to.be.above(8);
  });

  it('has each class once, in the sources and in what is built: the Node package throws what the browser package exports', () => {
    const script = `import { InputError } from 'aurelian-drift';
      import { readTrackFile } from 'aurelian-drift-node';
      const error = await readTrackFile('nothing.xyz').catch((caught) => caught);
      const own = await readTrackFile('package.json').catch((caught) => caught);
      console.log(own instanceof InputError, error.code);`;
    for (const conditions of [['--conditions=aurelian-source', '--import=tsx'], []]) {
      const node = [...conditions, '--input-type=module', '-e', script];
      const { stdout, stderr } = spawnSync(process.execPath, node, { encoding: 'utf8' });
      expect([stdout, stderr]).to.deep.equal(['true ENOENT\n', '']);
    }
  });
});

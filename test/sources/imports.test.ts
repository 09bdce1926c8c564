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
});

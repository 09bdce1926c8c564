import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { readdirSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('../..', import.meta.url));
const bench = (...words: string[]) => {
  const node = ['--conditions=aurelian-source', '--import=tsx', 'bench/main.ts', ...words];
  return spawnSync(process.execPath, node, { cwd: root, encoding: 'utf8' });
};

describe('a comparison with an earlier commit', function () {
  this.timeout(240_000);
  before(function () {
    // A checkout without history, or with one that this user may not read, has no earlier commit.
    if (spawnSync('git', ['rev-parse', '--verify', 'HEAD'], { cwd: root }).status !== 0) this.skip();
  });

  it('times both in turn, prints the ratio with its quartiles, and leaves nothing behind', () => {
    const { status, stdout, stderr } = bench('--against', 'HEAD', '--rows', 'thinning', '--rounds', '3');
    expect([status, stderr]).to.deep.equal([0, '']);
    expect(stdout).to.match(/\| thinning \| [\d.]+ s \| [\d.]+ s \| [\d.]+ × \| [\d.]+ to [\d.]+ \|/);
    expect(readdirSync(`${root}build`).filter((name) => name.startsWith('against-'))).to.deep.equal([]);
  });

  it('refuses an unknown commit, an unknown row, and a misspelt option', () => {
    expect(bench('--against', 'nowhere').stderr).to.include('"nowhere" is no commit of this repository');
    expect(bench('--against', 'HEAD', '--rows', 'distence').stderr).to.include(
      'there is no row "distence", did you mean "distance"?',
    );
    expect(bench('--aginst', 'HEAD').stderr).to.include("Unknown option '--aginst'");
    expect(bench('--against', 'HEAD', '--rounds', 'many').status).to.equal(2);
  });
});

import { expect } from 'chai';
import { existsSync, readFileSync, readdirSync } from 'node:fs';
import { publicSurface, surfaceFile } from '../../scripts/surface.js';

describe('the public surface', function () {
  this.timeout(240_000);
  let surface: ReturnType<typeof publicSurface>;
  before(() => (surface = publicSurface()));

  it('is the one that was agreed on: after an intended change, `npm run surface` updates it', () => {
    const folder = new URL('../../surface/', import.meta.url);
    expect(readdirSync(folder).sort()).to.deep.equal(
      [...surface.entries.keys()].map((entry) => `${entry.replaceAll('/', '.')}.txt`).sort(),
    );
    for (const [entry, text] of surface.entries) {
      const agreed = existsSync(surfaceFile(entry)) ? readFileSync(surfaceFile(entry), 'utf8') : '';
      const [now, then] = [text.split('\n'), agreed.split('\n')];
      expect(
        {
          gone: then.filter((line) => !now.includes(line)),
          come: now.filter((line) => !then.includes(line)),
        },
        entry,
      ).to.deep.equal({ gone: [], come: [] });
      expect(text).to.equal(agreed);
    }
  });

  it('exports every type that stands in a signature', () => {
    expect(surface.hidden).to.deep.equal([]);
  });

  it('has a doc comment for every export, and for every option', () => {
    expect(surface.undocumented).to.deep.equal([]);
  });

  it('has no internals in it', () => {
    const all = [...surface.entries.values()].join('\n');
    for (const name of [
      'make(',
      'appendNumbers',
      'TrailPyramid',
      'CanvasPainter',
      'PathFilter',
      'predictInto',
    ])
      expect(all).to.not.include(name);
  });
});

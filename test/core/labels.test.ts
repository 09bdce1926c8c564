import { expect } from 'chai';
import fc from 'fast-check';
import { LabelRoom } from '../../packages/aurelian-drift/src/core/scene/layers/label-room.js';
import { paperLabel } from '../../packages/aurelian-drift/src/core/scene/layers/paper-label.js';
import { cutText, linesOf } from '../../packages/aurelian-drift/src/core/scene/text-lines.js';
import { textWidth } from '../../packages/aurelian-drift/src/core/scene/text-width.js';

/** A font in which every sign is 8 pixels wide. */
const typewriter = (text: string) => Array.from(text).length * 8;
const words = (steps: readonly { readonly kind: string }[]) =>
  steps.flatMap((step) => ('text' in step ? [step.text as string] : []));

describe('labels in any font', () => {
  it('are cut after a whole letter, never wider than their room, and the rest of a text is not changed', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: 'grapheme', maxLength: 60 }),
        fc.integer({ min: 20, max: 300 }),
        (text, width) => {
          const cut = cutText(text, width, typewriter);
          if (typewriter(text) <= width) {
            expect(cut).to.equal(text);
            return;
          }
          expect(typewriter(cut)).to.be.at.most(Math.max(8, width));
          expect(cut.endsWith('…')).to.equal(true);
          expect(text.startsWith(cut.slice(0, -1))).to.equal(true);
          const letters = (part: string) => [...new Intl.Segmenter().segment(part)].length;
          expect(letters(text)).to.equal(letters(cut.slice(0, -1)) + letters(text.slice(cut.length - 1)));
        },
      ),
    );
  });

  it('are broken at spaces into lines that fit, and a word that is too wide inside it', () => {
    const paint = { width: 80, lines: 3, size: 13 };
    expect(linesOf('one two three four five', paint, typewriter)).to.deep.equal([
      'one two',
      'three four',
      'five',
    ]);
    expect(linesOf('a Bezirksversammlung here', paint, typewriter)).to.deep.equal([
      'a',
      'Bezirksver',
      'sammlung…',
    ]);
    expect(linesOf('  \n ', paint, typewriter)).to.deep.equal([]);
    fc.assert(
      fc.property(fc.lorem({ maxCount: 30 }), (text) => {
        const lines = linesOf(text, { ...paint, lines: 100 }, typewriter);
        expect(lines.join(' ').replaceAll(' ', '')).to.equal(text.replaceAll(' ', ''));
        for (const line of lines) expect(typewriter(line)).to.be.at.most(80);
      }),
    );
  });

  it('of a very long text cost no more than what is looked at', () => {
    const long = 'Wick '.repeat(200_000);
    let measured = 0;
    const counting = (text: string) => {
      measured += text.length;
      return typewriter(text);
    };
    const [line] = linesOf(long, { width: 80, lines: 1, size: 13 }, counting);
    expect(line).to.match(/^Wick Wick.*…$/);
    expect(measured).to.be.below(20_000);
  });

  it('that are opened are shown in any case, inside the visible part', () => {
    const room = new LabelRoom([0, 0, 300, 200], typewriter);
    const free = words(paperLabel('Hut', 100, 100, room));
    expect(free).to.deep.equal(['Hut']);
    room.take(0, 0, 300, 200);
    room.seize(0, 0, 300, 200); // nothing is free any more
    for (const [x, y] of [
      [100, 100],
      [299, 5],
      [2, 198],
      [150, 0],
    ] as const) {
      const steps = paperLabel('The hut at the north end of the long dune', x, y, room);
      expect(words(steps).join(' ')).to.equal('The hut at the north end of the long dune');
      const box = steps[0] as unknown as { rings: readonly (readonly number[])[] };
      const [left, top, , , right, bottom] = box.rings[0]!;
      expect([left! >= 0, top! >= 0, right! <= 300, bottom! <= 200]).to.deep.equal([true, true, true, true]);
    }
  });

  it('have a width without a screen too, for letters that the font of the house does not have', () => {
    const wide = (text: string) => textWidth(text, 10);
    expect(wide('漢字')).to.equal(20);
    expect(wide('e\u0301')).to.equal(wide('e'));
    expect(wide('שלום')).to.be.within(15, 35);
    expect(wide('🦋')).to.be.within(8, 16);
    expect(wide('A')).to.be.closeTo(5.43, 0.01);
  });
});

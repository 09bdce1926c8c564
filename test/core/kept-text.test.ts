import { expect } from 'chai';
import fc from 'fast-check';
import { crc32 as zlibCrc32 } from 'node:zlib';
import { crc32 } from '../../packages/aurelian-drift/src/core/check/crc32.js';
import { keptText, readKept } from '../../packages/aurelian-drift/src/core/check/kept-text.js';
import { textOfUtf8, utf8Of } from '../../packages/aurelian-drift/src/core/check/utf8.js';
import { opened } from '../support/kept-text.js';

const KIND = { kind: 'sample', version: 3, what: 'a sample' };
/** Any text, with letters of every length in UTF-8 and lone surrogates. */
const text = fc.oneof(
  fc.string({ unit: 'binary' }),
  fc.array(fc.integer({ min: 0, max: 0xffff })).map((units) => String.fromCharCode(...units)),
);

describe('kept text', () => {
  it('is bytes as the platform has them, and comes back from any bytes without an error', () => {
    fc.assert(fc.property(text, (any) => void expect([...utf8Of(any)]).to.deep.equal([...Buffer.from(any)])));
    fc.assert(
      fc.property(
        fc.string({ unit: 'binary' }),
        (any) => void expect(textOfUtf8(Buffer.from(any))).to.equal(any),
      ),
    );
    fc.assert(fc.property(fc.uint8Array(), (any) => void expect(textOfUtf8(any)).to.be.a('string')));
  });

  it('has the check sum of RFC 1952', () => {
    expect(crc32(Buffer.from('123456789'))).to.equal(0xcbf43926);
    fc.assert(
      fc.property(
        fc.uint8Array(),
        fc.uint8Array(),
        (a, b) => void expect(crc32(a, b)).to.equal(zlibCrc32(Buffer.concat([a, b]))),
      ),
    );
  });

  it('gives any value back, and is refused when any letter of it has changed', () => {
    fc.assert(
      fc.property(fc.jsonValue(), fc.nat(), fc.integer({ min: 1, max: 0x7f }), (value, where, change) => {
        const kept = keptText(KIND, value);
        expect(opened(kept)).to.deep.include({ kind: 'sample', version: 3 });
        expect(readKept(KIND, kept)).to.deep.equal({
          version: 3,
          value: JSON.parse(JSON.stringify(value)) as unknown,
        });
        const at = where % kept.length;
        const damaged =
          kept.slice(0, at) + String.fromCharCode(kept.charCodeAt(at) ^ change) + kept.slice(at + 1);
        // A smaller version number means another layout, and its value is left as it was.
        const older = /^aurelian-drift sample [0-2] /.test(damaged);
        if (older) expect(readKept(KIND, damaged).value).to.deep.equal(readKept(KIND, kept).value);
        else expect(() => readKept(KIND, damaged)).to.throw(/sample/);
      }),
    );
  });
});

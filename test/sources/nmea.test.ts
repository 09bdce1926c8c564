import { Receiver, Recorder, nmeaSource, writeNmea, type Fix, type Note } from 'aurelian-drift';
import { VirtualClock } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { fixes } from '../support/made.js';
import { Trail } from 'aurelian-drift';
import { takesOn } from '../support/device.js';

const start = Date.UTC(2026, 4, 14, 8);

/** A cable: bytes written at one end arrive at the other. */
function cable() {
  const chunks: (string | Uint8Array)[] = [];
  let wake = () => {};
  const state = { ended: false, released: 0, opened: 0, broken: undefined as Error | undefined };
  async function* out(): AsyncGenerator<string | Uint8Array> {
    state.opened++;
    try {
      for (;;) {
        const next = chunks.shift();
        if (next !== undefined) yield next;
        else if (state.broken !== undefined) throw state.broken;
        else if (state.ended) return;
        else await new Promise<void>((resolve) => (wake = resolve));
      }
    } finally {
      state.released++;
    }
  }
  const poke = () => wake();
  return {
    state,
    open: out,
    put: (...more: (string | Uint8Array)[]) => {
      chunks.push(...more);
      poke();
    },
    end: () => {
      state.ended = true;
      poke();
    },
    tear: (error: Error) => {
      state.broken = error;
      poke();
    },
  };
}

/** Lets pending promises settle. */
const settle = async () => {
  for (let i = 0; i < 20; i++) await Promise.resolve();
};

describe('a wired receiver', () => {
  const walk = Trail.from(fixes(4).map(({ time, lat, lon }) => ({ time, lat, lon })));
  const lines = writeNmea({ trails: [walk] }).split(/(?<=\r\n)/);

  it(
    'is followed sentence by sentence, each fix delivered when its time is complete, bad ' + 'lines named',
    async () => {
      const { open, put, end, state } = cable();
      const clock = new VirtualClock(start);
      const notes: Note[] = [];
      const source = nmeaSource(open, { clock });
      source.onEvent?.(({ kind, ...note }) => kind === 'note' && notes.push(note as Note));
      const receiver = new Receiver({ source, clock, purpose: 'Follow the boat.' });
      const seen: Fix[] = [];
      const follow = receiver.follow();
      const recorder = new Recorder({ clock });
      recorder.start(follow);
      follow.onFix((fix) => seen.push(fix), { all: true });
      await clock.settle(settle());
      // Bytes, split in the middle of a sentence.
      const bytes = new TextEncoder().encode(lines[0]! + lines[1]!);
      put(bytes.slice(0, 20));
      await settle();
      put(bytes.slice(20));
      await settle();
      expect(seen).to.have.length(0); // more sentences of the same time may follow
      await clock.advance(0.3);
      await settle();
      expect(seen.map(({ time }) => time)).to.deep.equal([walk.at(0)!.time]);
      put(lines[2]!, '$GNRMC,080002,A,44*00\r\n', lines[3]!, lines[4]!, lines[5]!);
      await settle();
      expect(seen).to.have.length(2); // a sentence of the next time completes the one before
      end();
      await clock.settle(follow.outcome);
      expect(seen).to.have.length(3);
      expect(seen.at(-1)!.lat).to.be.closeTo(walk.at(2)!.lat, 2e-9);
      expect(notes.map(({ line, text }) => [line, text.slice(0, 21)])).to.deep.equal([
        [4, 'the checksum of GNRMC'],
      ]);
      expect((await recorder.finish()).length).to.equal(3);
      expect(state).to.include({ opened: 1, released: 1 });
    },
  );

  it('is released when the last follow ends', async () => {
    const { open, put, state } = cable();
    const clock = new VirtualClock(start);
    const receiver = new Receiver({
      source: nmeaSource(open, { clock }),
      clock,
      purpose: 'Follow the boat.',
    });
    const follow = receiver.follow();
    await clock.settle(settle());
    put(...lines.slice(0, 2));
    await settle();
    follow.stop();
    put(...lines.slice(2));
    await settle();
    expect(state.released).to.equal(1);
  });

  it('that fails on release is reported once, and rejects nowhere', async () => {
    const clock = new VirtualClock();
    const warnings: string[] = [];
    const unhandled: unknown[] = [];
    const receive = (reason: unknown) => unhandled.push(reason);
    process.on('unhandledRejection', receive);
    const feed = {
      [Symbol.asyncIterator]: () => ({
        next: () => new Promise<never>(() => {}),
        return: () => Promise.reject(new Error('the port is gone')),
      }),
    };
    const source = nmeaSource(() => feed, { clock, warn: (text) => warnings.push(text) });
    const follow = new Receiver({ source, clock, purpose: 'Test.' }).follow();
    await clock.advance(1);
    follow.stop();
    // Unhandled rejections are reported before the next turn of the loop ends.
    await new Promise((resolve) => setImmediate(() => setImmediate(resolve)));
    process.off('unhandledRejection', receive);
    expect(unhandled).to.deep.equal([]);
    expect(warnings).to.deep.equal([
      'the wired receiver failed as its feed was ended: Error: the port is gone',
    ]);
  });

  it('that breaks ends the follow with the reason', async () => {
    const { open, tear } = cable();
    const clock = new VirtualClock(start);
    const receiver = new Receiver({
      source: nmeaSource(open, { clock }),
      clock,
      purpose: 'Follow the boat.',
    });
    const follow = receiver.follow();
    follow.onEvent(takesOn);
    await clock.settle(settle());
    tear(new Error('the cable is off'));
    await clock.settle(follow.outcome);
    expect(follow.error!.kind).to.equal('unknown');
    expect((follow.error!.cause as Error).message).to.equal('the cable is off');
    expect(() => nmeaSource(open, { nam: 'x' } as object)).to.throw('nmeaSource has no option "nam"');
  });
});

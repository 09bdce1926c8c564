import { ahead, fixFrom, type Fix } from 'aurelian-drift';
import {
  AnswerWatch,
  Gazetteer,
  NearWatch,
  ServiceError,
  gazetteerPlaces,
  type AnswerWatchOptions,
  type PlaceService,
} from 'aurelian-drift/places';
import { VirtualClock } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { hut } from '../support/device.js';

const fixAt = (clock: VirtualClock, metres: number, accuracy = 5): Fix =>
  fixFrom({ time: clock.now(), ...ahead(hut, 0, metres), accuracy });

describe('places around the user', () => {
  it('are looked up after real movement only, and their distances are those of the newest fix', async () => {
    const clock = new VirtualClock();
    const spots = [0, 300, 900].map((metres, i) => ({
      kind: 'well',
      name: `Well ${i}`,
      ...ahead(hut, 0, metres),
    }));
    const gazetteer = gazetteerPlaces(new Gazetteer(spots));
    let asked = 0;
    const places: PlaceService = { ...gazetteer, near: (...given) => (asked++, gazetteer.near(...given)) };
    const watch = new NearWatch({ places, within: 500, kinds: ['well'], clock });
    const shown = () =>
      watch.$reading.get().answers.map(({ name, distance }) => `${name} ${Math.round(distance!)}`);
    const walk = async (metres: number, accuracy?: number) => {
      await clock.advance(1);
      watch.take(fixAt(clock, metres, accuracy));
      await clock.advance(0);
    };
    expect(watch.$reading.get().state).to.equal('none');
    await walk(100);
    expect(shown()).to.deep.equal(['Well 0 100', 'Well 1 200']);
    await walk(140); // nearer to the second
    expect(shown()).to.deep.equal(['Well 0 140', 'Well 1 160']);
    await walk(149);
    expect(asked).to.equal(1);
    await walk(190, 300); // the fix itself is not surer than that
    expect(asked).to.equal(1);
    expect(shown()).to.deep.equal(['Well 1 110', 'Well 0 190']);
    await walk(500);
    expect(asked).to.equal(2);
    expect(shown()).to.deep.equal(['Well 1 200', 'Well 2 400']);
    watch.close();
    await walk(900);
    expect(asked).to.equal(2);
    expect(() => new NearWatch({ places, withn: 5 } as never)).to.throw('did you mean "within"?');
  });
});

describe('a question of the app’s own that follows the position', () => {
  function setUp(options: Partial<AnswerWatchOptions<string>> = {}) {
    const clock = new VirtualClock();
    const asked: {
      lat: number;
      answer: (text: string) => void;
      fail: (error: Error) => void;
      signal: AbortSignal;
    }[] = [];
    const watch = new AnswerWatch<string>({
      ask: ({ lat }, signal) => new Promise((answer, fail) => asked.push({ lat, answer, fail, signal })),
      clock,
      ...options,
    });
    const walk = async (metres: number) => {
      await clock.advance(1);
      const fix = fixAt(clock, metres);
      watch.take(fix);
      await clock.advance(0);
      return fix;
    };
    return { clock, asked, watch, walk };
  }

  it('is put after real movement, with a rounded position, and its answer says what place it is for', async () => {
    const { clock, asked, watch, walk } = setUp({
      rounding: 1000,
      places: gazetteerPlaces(new Gazetteer([{ kind: 'well', name: 'Hut Well', ...hut }])),
    });
    const fix = await walk(0);
    expect(asked).to.have.length(1);
    expect(asked[0]!.lat).to.not.equal(fix.lat);
    expect(Math.abs(asked[0]!.lat - fix.lat)).to.be.below(1000 / 111_000);
    asked[0]!.answer('high water 14:05');
    await clock.advance(30);
    await walk(400);
    expect(asked).to.have.length(1);
    const reading = watch.$reading.get();
    expect(reading.state).to.equal('known');
    expect(reading.answer).to.deep.include({ content: 'high water 14:05', name: 'Hut Well' });
    expect(reading.answer!.where.lat).to.equal(asked[0]!.lat);
    expect(reading.fix).to.equal(fix);
    expect(reading.moved).to.be.closeTo(400, 1);
    expect((clock.now() - reading.fix!.time) / 1000).to.equal(31);
  });

  it('drops the answer for a place that was left, and shows the newest', async () => {
    const { clock, asked, watch, walk } = setUp();
    await walk(0);
    await walk(2000);
    expect(asked, 'one at a time').to.have.length(1);
    asked[0]!.answer('old');
    await clock.advance(0);
    expect(watch.$reading.get().answer).to.equal(undefined);
    expect(asked).to.have.length(2);
    asked[1]!.answer('new');
    await clock.advance(0);
    expect(watch.$reading.get().answer!.content).to.equal('new');
    expect(watch.counts).to.deep.equal({ lookUps: 2, dropped: 1, requests: 2 });
  });

  it('is tried again after a passing failure, ends with its patience, and keeps the last answer', async () => {
    const { clock, asked, watch, walk } = setUp({ patience: 5, retries: 1 });
    await walk(0);
    asked[0]!.fail(new ServiceError('unreachable'));
    await clock.advance(2);
    asked[1]!.answer('calm');
    await clock.advance(0);
    expect(watch.$reading.get().answer!.content).to.equal('calm');
    await walk(3000);
    await clock.advance(20);
    expect(asked.length).to.be.at.least(4);
    expect(asked[2]!.signal.aborted).to.equal(true);
    const { state, error, answer } = watch.$reading.get();
    expect([state, error!.kind, answer!.content]).to.deep.equal(['failed', 'timed-out', 'calm']);
    watch.close();
    expect(asked.at(-1)!.signal.aborted).to.equal(true);
  });

  it('uses a stored answer where the user comes back soon, and asks anew after a while', async () => {
    const { clock, asked, watch, walk } = setUp({ keepFor: 600, refresh: 300 });
    await walk(0);
    asked[0]!.answer('a');
    await walk(5000);
    asked[1]!.answer('b');
    await walk(0);
    await clock.advance(0);
    expect([asked.length, watch.$reading.get().answer!.content]).to.deep.equal([2, 'a']);
    await clock.advance(301);
    await walk(1);
    expect(asked).to.have.length(3);
    watch.renew();
    await clock.advance(0);
    expect(watch.$reading.get().answer).to.equal(undefined);
    expect(() => setUp({ pateince: 3 } as never)).to.throw('did you mean "patience"?');
  });
});

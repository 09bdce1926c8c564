import { ahead, fixFrom, readPosition, type Fix } from 'aurelian-drift';
import {
  Gazetteer,
  PlaceLookUp,
  ServiceError,
  PlaceWatch,
  gazetteerPlaces,
  type PlaceAnswer,
  type PlaceService,
  type PlaceWatchOptions,
} from 'aurelian-drift/places';
import { VirtualClock, randomFrom } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { hut, route, setUp as device } from '../support/device.js';

/** A service whose answers arrive when the test releases them, in any order. */
function slowService() {
  const asked: {
    lat: number;
    options: { level?: string; signal?: AbortSignal };
    answer: () => void;
    fail: (error: Error) => void;
  }[] = [];
  const places: PlaceService = {
    at: (where, options = {}) =>
      new Promise<readonly PlaceAnswer[]>((resolve, reject) => {
        const name = `Place ${asked.length + 1}`;
        asked.push({
          lat: where.lat,
          options: options,
          answer: () =>
            resolve([{ kind: 'spot', level: 'spot', name, text: name, lat: where.lat, lon: where.lon }]),
          fail: reject,
        });
      }),
    near: () => Promise.resolve([]),
    named: () => Promise.resolve([]),
  };
  return { asked, places };
}

function setUp(options: Partial<PlaceWatchOptions> = {}) {
  const service = slowService();
  const clock = new VirtualClock();
  const watch = new PlaceWatch({ places: service.places, clock, ...options });
  let time = clock.now();
  /** A fix this many metres north of the hut. */
  const walk = (metres: number, more: Partial<Fix> = {}) => {
    time = Math.max(time + 1000, clock.now());
    const fix = fixFrom({ time, ...ahead(hut, 0, metres), accuracy: 5, ...more });
    watch.take(fix);
    return fix;
  };
  const settle = () => clock.advance(0);
  const text = () => watch.$reading.get().answers[0]?.text;
  return { ...service, clock, watch, walk, settle, text };
}

describe('look-ups while following', () => {
  it('ask once for 600 fixes within 20 m', async () => {
    const { asked, walk, settle } = setUp();
    const random = randomFrom(4);
    for (let i = 0; i < 600; i++) {
      walk(random.uniform() * 20);
      if (i === 3) asked[0]!.answer();
      await settle();
    }
    expect(asked).to.have.length(1);
  });

  it(
    'ask again after real movement: beyond the set distance, and beyond the accuracy of ' + 'the fix',
    async () => {
      const { asked, walk, settle } = setUp({ beyond: 50 });
      walk(0);
      asked[0]!.answer();
      await settle();
      walk(49);
      walk(120, { accuracy: 150 });
      expect(asked).to.have.length(1);
      walk(51);
      expect(asked).to.have.length(2);
    },
  );

  it('put one question at a time, and the newest position’s answer wins', async () => {
    const { asked, walk, settle, text, watch } = setUp();
    walk(0);
    walk(100);
    walk(200);
    expect(asked).to.have.length(1);
    asked[0]!.answer(); // of a position that was left
    await settle();
    expect(text()).to.equal(undefined);
    expect(asked).to.have.length(2);
    asked[1]!.answer();
    await settle();
    expect(text()).to.equal('Place 2');
    expect(asked[1]!.lat).to.be.closeTo(ahead(hut, 0, 200).lat, 1e-9);
    expect(watch.counts).to.deep.equal({ lookUps: 2, dropped: 1 });
  });

  it('show only the newest position’s address when answers come out of order through a client', async () => {
    // A client cancels the first question; its answer arrives after that of the second.
    const { asked, places } = slowService();
    const clock = new VirtualClock();
    const client = new PlaceLookUp({
      provider: { at: (where, options) => places.at(where, options) },
      clock,
      patience: 5,
      retries: 0,
    });
    const watch = new PlaceWatch({ places: client, clock });
    const shown: (string | undefined)[] = [];
    watch.$reading.listen(({ answers }) => shown.push(answers[0]?.text));
    watch.take(fixFrom({ time: clock.now(), ...hut, accuracy: 5 }));
    await clock.advance(6);
    expect(watch.$reading.get().error?.kind).to.equal('timed-out');
    watch.take(fixFrom({ time: clock.now() + 20_000, ...ahead(hut, 0, 300), accuracy: 5 }));
    await clock.advance(0);
    asked[1]!.answer();
    await clock.advance(0);
    asked[0]!.answer();
    await clock.advance(1);
    expect(watch.$reading.get().answers[0]!.text).to.equal('Place 2');
    expect(shown).not.to.include('Place 1');
  });

  it('show the answer of a place left behind, with how far, rather than nothing for ever', async () => {
    const { asked, walk, settle, text, watch } = setUp();
    for (let i = 0; i < 3; i++) {
      walk(i * 200);
      walk(i * 200 + 190);
      asked[i]!.answer();
      await settle();
    }
    expect(text()).to.equal('Place 3');
    expect(watch.$reading.get().moved).to.be.above(100);
  });

  it(
    'state the fix an answer belongs to and the distance since, and keep both when a ' +
      'later look-up fails',
    async () => {
      const { asked, walk, settle, watch, text, clock } = setUp();
      const first = walk(0);
      asked[0]!.answer();
      await settle();
      walk(30);
      expect(watch.$reading.get()).to.include({ state: 'known', fix: first });
      expect(watch.$reading.get().moved).to.be.closeTo(30, 0.01);
      walk(80);
      asked[1]!.fail(new ServiceError('unreachable'));
      await settle();
      const reading = watch.$reading.get();
      expect(reading.state).to.equal('failed');
      expect(reading.error).to.include({ kind: 'unreachable' });
      expect(text()).to.equal('Place 1');
      // While the user stands, it is retried after a while, not with every fix.
      for (let i = 0; i < 10; i++) walk(80);
      expect(asked).to.have.length(2);
      await clock.advance(16);
      walk(80);
      expect(asked).to.have.length(3);
      asked[2]!.answer();
      await settle();
      expect(watch.$reading.get()).to.include({ state: 'known' }).and.not.have.property('error');
    },
  );

  it('ask for no house with a coarse fix, and use no bad or late fix', () => {
    const coarse = setUp();
    coarse.walk(0, { accuracy: 400 });
    expect(coarse.asked[0]!.options.level).to.equal('locality');
    const sound = setUp();
    sound.walk(0, { marks: ['outlier'] });
    expect(sound.asked).to.have.length(0);
    const now = sound.walk(0);
    sound.watch.take(fixFrom({ ...now, time: now.time - 5000, ...ahead(hut, 0, 500) }));
    expect(sound.asked).to.have.length(1);
    expect(sound.asked[0]!.options.level).to.equal('house');
  });

  it('end when closed: a running request is cancelled, and nothing is shown afterwards', async () => {
    const { asked, walk, settle, watch, text } = setUp();
    walk(0);
    watch.close();
    expect(asked[0]!.options.signal!.aborted).to.equal(true);
    asked[0]!.answer();
    await settle();
    walk(500);
    expect(asked).to.have.length(1);
    expect(text()).to.equal(undefined);
  });

  it('run beside a follow, whose numbers they never delay', async () => {
    const { clock, receiver } = device({ route, permission: 'granted' });
    const watch = new PlaceWatch({
      places: gazetteerPlaces(new Gazetteer([{ kind: 'hamlet', name: 'Wick', ...hut }])),
      clock,
    });
    const follow = receiver.follow();
    const end = watch.follow(follow);
    await clock.advance(300);
    expect(watch.$reading.get().answers[0]!.text).to.match(/^\d+ m E of Wick$/);
    expect(receiver.$fix.get()!.time).to.be.above(watch.$reading.get().fix!.time);
    expect(watch.counts.lookUps).to.be.within(4, 12); // 300 s at a walk are some 400 m
    end();
    follow.stop();
  });
});

describe('a place given by hand', () => {
  it('is the receiver’s fix after a refusal: no dead end', async () => {
    const { receiver } = device({ answer: 'refuse' });
    await receiver.fix().catch(() => undefined);
    expect(receiver.$status.get().state).to.equal('failed');
    const fix = receiver.placeByHand(readPosition('44.2031, -33.5812')!);
    expect(fix).to.include({ lat: 44.2031, lon: -33.5812, origin: 'manual' });
    expect(receiver.$fix.get()).to.equal(fix);
    expect(receiver.$status.get()).to.deep.include({ state: 'ready', fix });
    expect(receiver.lastFix()!.age).to.equal(0);
    expect(() => receiver.placeByHand({ lat: 120, lon: 44 })).to.throw('swapped?');
    expect(receiver.$fix.get()).to.equal(fix);
  });

  it('gives way to the device’s own when that comes', async () => {
    const { clock, receiver } = device({ permission: 'granted' });
    receiver.placeByHand({ lat: 1, lon: 2, accuracy: 30 });
    const follow = receiver.follow();
    await clock.advance(5);
    expect(receiver.$fix.get()).to.include({ lat: hut.lat });
    follow.stop();
  });
});

import { VirtualClock } from 'aurelian-drift/testing';
import {
  PlaceLookUp,
  ServiceError,
  gazetteerPlaces,
  Gazetteer,
  type PlaceLookUpOptions,
  type PlaceProvider,
  type ServiceErrorKind,
} from 'aurelian-drift/places';
import { ahead, distance } from 'aurelian-drift';
import { expect } from 'chai';

const hut = { lat: 44.2, lon: -33.6 };
const wick = { kind: 'hamlet', name: 'Wick', lat: 44.2, lon: -33.6 };

/** A client over a provider, on a virtual clock. */
function setUp(provider: PlaceProvider, options: Partial<PlaceLookUpOptions> = {}) {
  const clock = new VirtualClock();
  return { clock, client: new PlaceLookUp({ provider, clock, ...options }) };
}

const failure = async (promise: Promise<unknown>): Promise<ServiceError> => {
  const error: unknown = await promise.then(
    () => undefined,
    (reason: unknown) => reason,
  );
  expect(error).to.be.instanceOf(ServiceError);
  return error as ServiceError;
};
/** A provider that returns the next item of a list: an answer, an error, or nothing ever. */
function provider(...steps: (object[] | Error | 'never')[]) {
  const seen: { where?: object; options?: object; signal: AbortSignal }[] = [];
  const next = (where: object, options: object, signal: AbortSignal) => {
    seen.push({ where, options, signal });
    const step = steps[Math.min(seen.length - 1, steps.length - 1)]!;
    if (step === 'never') return new Promise<never>(() => {});
    return step instanceof Error ? Promise.reject(step) : Promise.resolve(step as never);
  };
  return {
    seen,
    own: {
      at: next,
      near: next,
      named: (text: string, options: object, signal: AbortSignal) => next({ text }, options, signal),
    },
  };
}

describe('looking up places with a provider', () => {
  it(
    'puts a developer’s own provider behind the interface in a few lines, and computes ' +
      'the missing fields',
    async () => {
      const { client } = setUp({
        at: () =>
          Promise.resolve([
            {
              kind: 'house',
              houseNumber: '14',
              street: 'Plover Lane',
              locality: 'Wick',
              ...ahead(hut, 90, 20),
            },
          ]),
        named: (text) => Promise.resolve([{ kind: 'hamlet', name: text, ...hut }]),
      });
      const [answer] = await client.at(hut, { pattern: 'DE' });
      expect(answer).to.include({ level: 'house', text: 'Plover Lane 14, Wick', relation: 'at' });
      expect(answer!.distance).to.be.closeTo(20, 0.001);
      expect(answer!.bearing).to.be.closeTo(90, 0.001);
      expect((await client.named('Wick'))[0]).to.include({ level: 'locality', text: 'Wick' });
      expect((await failure(client.near(hut))).kind).to.equal('unsupported');
    },
  );

  it('gives the device’s own gazetteer the same face', async () => {
    const places = gazetteerPlaces(new Gazetteer([wick]));
    expect((await places.at(hut))[0]!.text).to.equal('Wick');
    expect((await places.near(hut))[0]!.name).to.equal('Wick');
    expect((await places.named('wick'))[0]!.name).to.equal('Wick');
    const aborted = AbortSignal.abort(new Error('enough'));
    expect(
      await places.at(hut, { signal: aborted }).catch((error: unknown) => (error as Error).message),
    ).to.equal('enough');
  });

  it(
    'ends a try when its patience does, also of a provider that does not heed the signal, and tries ' +
      'again',
    async () => {
      const { seen, own } = provider('never', [wick]);
      const { clock, client } = setUp(own, { patience: 5 });
      const asked = client.at(hut);
      await clock.advance(5.5);
      expect(seen[0]!.signal.aborted).to.equal(true);
      await clock.advance(1);
      expect((await asked)[0]!.text).to.equal('Wick');
      expect(client.asked).to.equal(2);
    },
  );

  it('gives up after its retries, with a doubling pause, and states the kind in words', async () => {
    const times: number[] = [];
    const { clock, client } = setUp(
      {
        at: () => {
          times.push(clock.now());
          return Promise.reject(new ServiceError('failing', { note: '503' }));
        },
      },
      { retries: 3 },
    );
    const asked = failure(client.at(hut));
    await clock.advance(20);
    const error = await asked;
    expect(error).to.include({
      kind: 'failing',
      userText: 'The service has a problem. Try again later.',
    });
    expect(error.message).to.match(/^failing: .*\(503\)$/);
    expect(times.slice(1).map((time, i) => (time - times[i]!) / 1000)).to.deep.equal([1, 2, 4]);
  });

  it('does not retry permanent failures, and waits as long as a busy service asks', async () => {
    const { seen, own } = provider(new ServiceError('refused'));
    expect((await failure(setUp(own).client.at(hut))).kind).to.equal('refused');
    expect(seen).to.have.length(1);
    const busy = provider(new ServiceError('busy', { retryAfter: 7 }), [wick]);
    const { clock, client } = setUp(busy.own);
    const asked = client.at(hut);
    await clock.advance(6.9);
    expect(busy.seen).to.have.length(1);
    await clock.advance(0.2);
    expect((await asked)[0]!.text).to.equal('Wick');
    // Nobody waits half an hour.
    const long = provider(new ServiceError('busy', { retryAfter: 1800 }));
    expect((await failure(setUp(long.own).client.at(hut))).kind).to.equal('busy');
    const odd = await failure(setUp({ at: () => Promise.reject(new Error('odd')) }).client.at(hut));
    expect(odd.kind).to.equal('unknown');
    expect((odd.cause as Error).message).to.equal('odd');
  });

  it('is cancelled at once, with the reason, while it asks and while it waits', async () => {
    for (const step of ['never', new ServiceError('failing')] as const) {
      const { seen, own } = provider(step);
      const { clock, client } = setUp(own);
      const control = new AbortController();
      const asked = client.at(hut, { signal: control.signal }).catch((error: unknown) => error);
      await clock.advance(0.5);
      control.abort(new Error('the screen was closed'));
      expect(((await asked) as Error).message).to.equal('the screen was closed');
      await clock.advance(60);
      expect(seen).to.have.length(1);
    }
  });

  it('keeps a distance in time between questions', async () => {
    const { seen, own } = provider([wick]);
    const { clock, client } = setUp(own, { every: 2 });
    const asked = Promise.all([0, 100, 200].map((metres) => client.at(ahead(hut, 0, metres))));
    await clock.advance(1.9);
    expect(seen).to.have.length(1);
    await clock.advance(0.2);
    expect(seen).to.have.length(2);
    await clock.advance(2);
    await asked;
    expect(seen).to.have.length(3);
  });

  it('keeps answers by place, for a while and not too many, measures them anew, and forgets them', async () => {
    const { seen, own } = provider([{ kind: 'well', name: 'Low Well', ...hut }]);
    const { clock, client } = setUp(own, { sameWithin: 20, keep: 2, keepFor: 60 });
    const near = ahead(hut, 0, 1);
    await client.at(hut);
    const [again] = await client.at(near);
    expect(seen).to.have.length(1);
    expect(again!.distance).to.be.closeTo(1, 1e-6);
    await client.at(hut, { language: 'sv' });
    expect(seen).to.have.length(2);
    await client.at(ahead(hut, 0, 500));
    await client.at(hut);
    expect(seen).to.have.length(4); // two are kept, and the first is the oldest
    await clock.advance(61);
    await client.at(hut);
    expect(seen).to.have.length(5);
    client.forget();
    await client.at(hut);
    expect(seen).to.have.length(6);
  });

  it(
    'rounds positions before they leave, asks for no finer detail than they allow, and ' +
      'measures from the true one',
    async () => {
      const { seen, own } = provider([{ kind: 'hamlet', name: 'Wick', ...ahead(hut, 90, 900) }]);
      const { client } = setUp(own, { rounding: 500 });
      const [answer] = await client.at(hut, { level: 'house' });
      expect(seen[0]!.where).to.have.all.keys('lat', 'lon');
      const reported = seen[0]!.where as typeof hut;
      expect(distance(reported, hut)).to.be.within(1, 360);
      expect(seen[0]!.options).to.deep.equal({ level: 'locality' });
      expect(answer!.distance).to.be.closeTo(900, 0.01);
      await client.at(ahead(hut, 200, 3));
      expect(seen).to.have.length(1);
      await client.named('wick', { near: hut });
      expect((seen[1]!.options as { near: object }).near).to.deep.equal(reported);
      // Near is requested with a margin, and cut to the true radius.
      const around = provider([
        { kind: 'well', name: 'A', ...ahead(hut, 0, 450) },
        { kind: 'well', name: 'B', ...ahead(hut, 0, 550) },
      ]);
      const rough = setUp(around.own, { rounding: 500 });
      expect((await rough.client.near(hut, { within: 500 })).map(({ name }) => name)).to.deep.equal(['A']);
      expect((around.seen[0]!.options as { within: number }).within).to.be.above(800);
    },
  );

  for (const [what, step, ask, note] of [
    [
      'a house for a locality',
      [{ kind: 'house', street: 'Long Row', ...hut }],
      (client) => client.at(hut, { level: 'locality' }),
      'asked for a locality',
    ],
    [
      'a house far away',
      [{ kind: 'house', street: 'Long Row', ...ahead(hut, 0, 9000) }],
      (client) => client.at(hut),
      'is 9 km from what was asked',
    ],
    [
      'something out of reach',
      [{ kind: 'well', name: 'Low Well', ...ahead(hut, 0, 900) }],
      (client) => client.near(hut, { within: 500 }),
      'asked within 500 m, "Low Well" is 900 m away',
    ],
    [
      'another kind',
      [{ kind: 'hut', name: 'Low Hut', ...hut }],
      (client) => client.near(hut, { kinds: ['well'] }),
      'asked for well, "Low Hut" is a hut',
    ],
    ['no list', { lat: 1, lon: 2 }, (client) => client.at(hut), 'it is not a list of places'],
  ] as [string, object, (client: PlaceLookUp) => Promise<unknown>, string][]) {
    it(`accepts no answer that does not fit the question: ${what}`, async () => {
      const { own } = provider(step as object[]);
      const error = await failure(ask(setUp(own).client));
      expect(error.kind).to.equal('unfit' satisfies ServiceErrorKind);
      expect(error.message).to.include(note);
    });
  }

  it('refuses misspelt options and questions, with a suggestion, before anybody is asked', async () => {
    const { seen, own } = provider([wick]);
    expect(() => new PlaceLookUp({ provider: own, patienc: 3 } as never)).to.throw(
      'did you mean "patience"?',
    );
    expect(() => new PlaceLookUp({ provider: own, patience: 8000 })).to.throw('did you mean 8 s?');
    const { client } = setUp(own);
    const message = (promise: Promise<unknown>) =>
      promise.catch((error: unknown) => (error as Error).message);
    expect(await message(client.at({ lat: 144, lon: 44 }))).to.include('swapped?');
    expect(await message(client.near(hut, { witin: 5 } as never))).to.include('did you mean "within"?');
    expect(await message(client.named(' '))).to.include('empty');
    expect(seen).to.deep.equal([]);
  });
});

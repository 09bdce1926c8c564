import { ahead, distance, fixFrom, type CircleFence, type Position } from 'aurelian-drift';
import { placesServer } from 'aurelian-drift-node';
import { Gazetteer } from 'aurelian-drift/places';
import { VirtualClock } from 'aurelian-drift/testing';
import { loadTexts } from 'aurelian-drift/texts';
import {
  NoWayError,
  ServiceError,
  WayFinder,
  WayLookUp,
  WayWatch,
  httpWays,
  networkFrom,
  networkWays,
  type WayProvider,
  type WayReading,
  type WayRequest,
  type WayService,
} from 'aurelian-drift/ways';
import { expect } from 'chai';
import { readFileSync } from 'node:fs';
import { createServer, type RequestListener } from 'node:http';
import { eventually } from '../support/eventually.js';

const { network } = networkFrom(
  JSON.parse(readFileSync(new URL('../../demo/lanes.geojson', import.meta.url), 'utf8')),
);
const [orrin, tolvay, skerrin, sallowick] = [
  { lat: 44.186501, lon: -33.60938 },
  { lat: 44.20315, lon: -33.581239 },
  { lat: 44.210349, lon: -33.558727 },
  { lat: 44.21476, lon: -33.61438 },
] as const;
const failureOf = (asked: Promise<unknown>): Promise<unknown> =>
  asked.then(
    () => undefined,
    (error: unknown) => error,
  );

const holds = (check: () => boolean) => eventually(() => expect(check()).to.equal(true));

/** A developer's own service: straight ahead, at a walk. */
const straight: WayProvider = {
  ways: ({ from, to }) => Promise.resolve([{ points: [from, to], seconds: distance(from, to) / 1.3 }]),
};

describe('a service for ways', () => {
  it('of a developer needs points and seconds; the rest is computed', async () => {
    const [way] = await new WayLookUp({ provider: straight }).ways({ from: orrin, to: tolvay, by: 'foot' });
    expect(way!.metres).to.be.closeTo(distance(orrin, tolvay), 1e-6);
    expect(way).to.deep.include({ by: 'foot', walk: [0, 0], enters: [], via: [] });
    expect(way!.steps.map(({ turn }) => turn)).to.deep.equal(['start', 'arrive']);
  });

  it('is asked at most once for the same question, and again after it was forgotten', async () => {
    const client = new WayLookUp({ provider: straight });
    for (let i = 0; i < 3; i++) await client.ways({ from: orrin, to: tolvay });
    expect(client.asked).to.equal(1);
    client.forget();
    await client.ways({ from: orrin, to: tolvay });
    expect(client.asked).to.equal(2);
  });

  it('gets positions rounded, and the walk to the way is from the true place', async () => {
    const got: WayRequest[] = [];
    const provider: WayProvider = {
      ways: (request, signal) => (got.push(request), straight.ways(request, signal)),
    };
    const client = new WayLookUp({ provider, rounding: 200 });
    const [way] = await client.ways({ from: orrin, via: [tolvay], to: skerrin });
    for (const [sent, own] of [
      [got[0]!.from, orrin],
      [got[0]!.via![0]!, tolvay],
      [got[0]!.to, skerrin],
    ] as const)
      expect(distance(sent, own)).to.be.within(1, 145);
    expect(way!.walk[0]).to.be.closeTo(distance(orrin, got[0]!.from), 0.01);
  });

  it('that is late, fails, gives nonsense or is not asked any more ends as a failure of its kind', async () => {
    const clock = new VirtualClock(0);
    const kind = async (ways: WayProvider['ways'], more: object = {}) => {
      const client = new WayLookUp({ provider: { ways }, retries: 0, clock, ...more });
      const error = await clock.settle(failureOf(client.ways({ from: orrin, to: tolvay })));
      expect(error).to.be.instanceOf(ServiceError);
      return (error as ServiceError).kind;
    };
    expect(await kind(() => new Promise(() => undefined))).to.equal('timed-out');
    expect(await kind(() => Promise.reject(new Error('boom')))).to.equal('unknown');
    for (const bad of [
      [],
      'nothing',
      [{ points: [], seconds: 1 }],
      [{ points: [orrin, { lat: 99, lon: 0 }], seconds: 1 }],
      [{ points: [orrin, tolvay], seconds: NaN }],
      [{ points: [{ lat: 0, lon: 0 }, tolvay], seconds: 9 }],
    ])
      expect(await kind(() => Promise.resolve(bad as never)), JSON.stringify(bad)).to.equal('unfit');
    const cancel = new AbortController();
    const client = new WayLookUp({ provider: { ways: () => new Promise(() => undefined) } });
    const asked = failureOf(client.ways({ from: orrin, to: tolvay, signal: cancel.signal }));
    cancel.abort(new Error('no longer'));
    expect(((await asked) as Error).message).to.equal('no longer');
  });

  it('tries again after a passing failure, but takes "no way" as the answer that it is', async () => {
    const clock = new VirtualClock(0);
    let tries = 0;
    const flaky: WayProvider = {
      ways: (request, signal) =>
        ++tries < 3 ? Promise.reject(new ServiceError('failing')) : straight.ways(request, signal),
    };
    const client = new WayLookUp({ provider: flaky, clock });
    expect(await clock.settle(client.ways({ from: orrin, to: tolvay }))).to.have.length(1);
    expect(tries).to.equal(3);
    const none = new WayLookUp({
      provider: { ways: () => Promise.reject(new NoWayError('no-way', 'none')) },
      clock,
    });
    expect(await clock.settle(failureOf(none.ways({ from: orrin, to: tolvay })))).to.be.instanceOf(
      NoWayError,
    );
    expect(none.asked).to.equal(1);
  });

  it('refuses a bad question before anybody is asked, and a misspelt option', async () => {
    const client = new WayLookUp({ provider: straight });
    expect(String(await failureOf(client.ways({ from: orrin } as WayRequest)))).to.contain(
      'way: to is missing',
    );
    expect(client.asked).to.equal(0);
    expect(() => new WayLookUp({ provider: straight, patiense: 3 } as never)).to.throw(
      'did you mean "patience"?',
    );
    expect(() => new WayLookUp({ provider: {} as never })).to.throw('must be an object with ways');
  });
});

describe('the stand-in service of ways', () => {
  let server: Awaited<ReturnType<typeof placesServer>>;
  let address = '';
  before(async () => {
    server = await placesServer({
      gazetteer: new Gazetteer([]),
      ways: networkWays(new WayFinder(network)),
      maxRate: 500,
    });
    address = await server.listen({ port: 0, host: '127.0.0.1' });
  });
  after(() => server.close());

  it('answers as the network does, areas and choices included', async () => {
    const [there, here] = [
      new WayLookUp({ provider: httpWays(address) }),
      networkWays(new WayFinder(network)),
    ];
    const fence: CircleFence = {
      kind: 'circle',
      id: 'c',
      name: 'Works',
      centre: ahead(tolvay, 250, 600),
      radius: 120,
    };
    for (const more of [
      {},
      { by: 'cycle', prefer: 'shortest' },
      { closed: [fence] },
      { avoid: [fence], choices: 3 },
    ] as Partial<WayRequest>[]) {
      const request = { from: orrin, to: skerrin, ...more };
      const [got, own] = [await there.ways(request), await here.ways(request)];
      expect(got.map(({ seconds }) => seconds)).to.deep.equal(own.map(({ seconds }) => seconds));
      expect(got.map(({ steps }) => steps.length)).to.deep.equal(own.map(({ steps }) => steps.length));
    }
    const error = (await failureOf(
      there.ways({ from: orrin, to: { lat: 44.1936, lon: -33.6382 }, by: 'drive' }),
    )) as NoWayError;
    expect(error.kind).to.equal('no-way');
    expect(error.nearest).to.have.keys('lat', 'lon');
  });

  it('says what is wrong with a question, to pages of any origin', async () => {
    const post = async (body: string) => {
      const response = await fetch(`${address}/ways`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body,
      });
      expect(response.headers.get('access-control-allow-origin')).to.equal('*');
      return { status: response.status, error: ((await response.json()) as { error: string }).error };
    };
    expect(await post('[1]')).to.deep.include({ status: 400 });
    expect((await post('{"from":{"lat":44.2,"lon":-33.6},"too":1}')).error).to.contain('did you mean "to"?');
    expect((await post(JSON.stringify({ from: orrin, to: tolvay, by: 'drvie' }))).error).to.contain(
      'did you mean "drive"?',
    );
    expect((await post('{')).status).to.equal(400);
  });

  it('that behaves badly gives a failure of its kind', async () => {
    const kindOf = async (listener: RequestListener) => {
      const bad = createServer(listener).listen(0, '127.0.0.1');
      await new Promise((done) => bad.once('listening', done));
      const { port } = bad.address() as { port: number };
      const client = new WayLookUp({
        provider: httpWays(`http://127.0.0.1:${port}`),
        retries: 0,
        patience: 2,
      });
      const error = (await failureOf(client.ways({ from: orrin, to: tolvay }))) as ServiceError;
      bad.closeAllConnections();
      bad.close();
      return error.kind;
    };
    expect(await kindOf((_, response) => response.writeHead(503).end())).to.equal('failing');
    expect(await kindOf((_, response) => response.writeHead(404).end())).to.equal('refused');
    expect(await kindOf((_, response) => response.end('<html>'))).to.equal('unfit');
    expect(
      await kindOf((_, response) =>
        response.end('{"type":"FeatureCollection","features":[{"type":"Feature","geometry":null}]}'),
      ),
    ).to.equal('unfit');
    expect(await kindOf((request) => request.destroy())).to.equal('unreachable');
    expect(() => httpWays('ways.example')).to.throw('Give one like https://ways.example.');
  });
});

describe('the way while following', () => {
  const fix = (at: Position, seconds: number, accuracy = 5) =>
    fixFrom({ ...at, time: 1_800_000_000_000 + seconds * 1000, accuracy });
  /** A service whose answers wait until they are let go. */
  const held = () => {
    const waiting: (() => void)[] = [];
    const service: WayService = {
      ways: async (request) => {
        await new Promise<void>((go) => waiting.push(go));
        return networkWays(new WayFinder(network)).ways(request);
      },
    };
    return { service, waiting };
  };

  it('is asked for once while the user keeps to it, and anew where they left it', async () => {
    const asked: Position[] = [];
    const own = networkWays(new WayFinder(network));
    const watch = new WayWatch({
      to: skerrin,
      ways: { ways: (request) => (asked.push(request.from), own.ways(request)) },
    });
    watch.take(fix(orrin, 0));
    await holds(() => watch.$reading.get().state === 'known');
    const { line } = watch.$reading.get().ways[0]!;
    const points = line.parts[0]!;
    for (let i = 1; i < Math.min(20, points.length); i++) watch.take(fix(ahead(points[i]!, 90, 8), i * 10));
    expect(asked).to.have.length(1);
    const away = ahead(points[10]!, 0, 300);
    watch.take(fix(away, 400));
    await holds(() => asked.length === 2);
    expect(distance(asked[1]!, away)).to.be.below(1);
    watch.close();
  });

  it('shows the way of the newest place, not of one that was left while it was asked for', async () => {
    const { service, waiting } = held();
    const watch = new WayWatch({ to: skerrin, ways: service });
    const shown: WayReading[] = [];
    watch.$reading.listen((reading) => {
      if (reading.state === 'known') shown.push(reading);
    });
    watch.take(fix(orrin, 0));
    await holds(() => waiting.length === 1);
    watch.take(fix(sallowick, 60));
    expect(waiting).to.have.length(1);
    waiting[0]!();
    await holds(() => waiting.length === 2);
    waiting[1]!();
    await holds(() => shown.length === 1);
    expect(distance(shown[0]!.ways[0]!.line.parts[0]![0]!, sallowick)).to.be.below(30);
    watch.close();
  });

  it('leads to another target when it is set, says where no way leads, and is silent once closed', async () => {
    const finder = new WayFinder(network);
    const watch = new WayWatch({ to: skerrin, request: { by: 'drive' }, ways: networkWays(finder) });
    watch.take(fix(orrin, 0));
    await holds(() => watch.$reading.get().state === 'known');
    watch.setTarget({ lat: 44.1936, lon: -33.6382 });
    await holds(() => watch.$reading.get().state === 'no-way');
    expect(watch.$reading.get().noWay?.metres).to.be.above(100);
    watch.close();
    watch.take(fix(tolvay, 60));
    expect(watch.$reading.get().state).to.equal('no-way');
  });

  it('keeps the last way when a question fails, with the text for the user in their language', async () => {
    const texts = await loadTexts('de');
    let fails = false;
    const provider: WayProvider = {
      ways: (request, signal) =>
        fails ? Promise.reject(new ServiceError('refused')) : straight.ways(request, signal),
    };
    const watch = new WayWatch({ to: skerrin, ways: new WayLookUp({ provider, retries: 0, texts }) });
    watch.take(fix(orrin, 0));
    await holds(() => watch.$reading.get().state === 'known');
    fails = true;
    watch.take(fix(ahead(orrin, 180, 500), 60));
    await holds(() => watch.$reading.get().state === 'failed');
    expect(watch.$reading.get().ways).to.have.length(1);
    expect(watch.$reading.get().error?.userText).to.be.a('string').and.not.equal('');
    watch.close();
  });
});

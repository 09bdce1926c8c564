import { distance } from 'aurelian-drift';
import { placesServer } from 'aurelian-drift-node';
import {
  Gazetteer,
  PlaceLookUp,
  ServiceError,
  httpPlaces,
  placesFrom,
  gazetteerPlaces,
} from 'aurelian-drift/places';
import { expect } from 'chai';
import { readFileSync } from 'node:fs';
import { createServer, type RequestListener, type Server } from 'node:http';

const { places, language } = placesFrom(
  JSON.parse(readFileSync(new URL('../../demo/places.geojson', import.meta.url), 'utf8')),
);
const gazetteer = new Gazetteer(places, { language: language! });
const hut = { lat: 44.187581, lon: -33.608005 };

describe('the stand-in service of places', () => {
  let server: Awaited<ReturnType<typeof placesServer>>;
  let address = '';
  before(async () => {
    server = await placesServer({ gazetteer, maxRate: 200 });
    address = await server.listen({ port: 0, host: '127.0.0.1' });
  });
  after(() => server.close());
  const get = async (path: string) => {
    const response = await fetch(address + path);
    return {
      status: response.status,
      headers: response.headers,
      json: (await response.json()) as { error?: string; type?: string },
    };
  };

  it('answers as the gazetteer does, to the last digit, through the client', async () => {
    const [there, here] = [new PlaceLookUp({ provider: httpPlaces(address) }), gazetteerPlaces(gazetteer)];
    const near = {
      within: 3000,
      max: 7,
      kinds: ['hut', 'well', 'shop'],
      by: 'prominence',
      language: ['art-x-vanesk', 'en'],
    } as const;
    for (const [reported, own] of [
      [await there.at(hut), await here.at(hut)],
      [
        await there.at(hut, { level: 'locality', pattern: 'DE' }),
        await here.at(hut, { level: 'locality', pattern: 'DE' }),
      ],
      [await there.near(hut, near), await here.near(hut, near)],
      [await there.named('chapel well', { near: hut }), await here.named('chapel well', { near: hut })],
    ]) {
      expect(reported).to.have.length(own!.length).and.not.have.length(0);
      reported!.forEach((answer, i) => {
        const { distance: far = 0, bearing = 0, nearest, ...rest } = answer;
        const {
          distance: farHere = 0,
          bearing: bearingHere = 0,
          nearest: nearestHere,
          ...restHere
        } = own![i]!;
        expect(nearest === undefined).to.equal(nearestHere === undefined);
        expect(rest).to.deep.equal(restHere);
        expect(far).to.be.closeTo(farHere, 0.02);
        expect(bearing).to.be.closeTo(bearingHere, 0.5);
      });
    }
  });

  it('speaks GeoJSON, to pages of any origin', async () => {
    const { status, headers, json } = await get('/places/at?lat=44.2&lon=-33.6');
    expect(status).to.equal(200);
    expect(headers.get('content-type')).to.match(/^application\/geo\+json/);
    expect(headers.get('access-control-allow-origin')).to.equal('*');
    expect(json.type).to.equal('FeatureCollection');
  });

  for (const [path, status, message] of [
    ['/places/at?lat=44.2', 400, 'lon is missing'],
    ['/places/at?lat=44.2&lon=abc', 400, 'lon must be a number, got "abc"'],
    ['/places/at?lat=133&lon=44.2', 400, 'swapped?'],
    ['/places/at?lat=1&lon=2&levl=house', 400, 'has no parameter "levl", did you mean "level"?'],
    ['/places/at?lat=1&lat=2&lon=2', 400, 'lat was given 2 times'],
    ['/places/near?lat=1&lon=2&within=-5', 400, 'within must be 0 to'],
    ['/places/near?lat=1&lon=2&max=1e9', 400, 'max must be 1 to 1000'],
    ['/places/named?near=1,2', 400, 'the text to look for is empty'],
    ['/places/named?text=a&near=here', 400, 'near must be LAT,LON'],
    [`/places/named?text=${'a'.repeat(300)}`, 400, '200 at most'],
    ['/places', 404, 'there are /places/at, /places/near, /places/named'],
  ] as const) {
    it(`reports the problem in ${path.slice(0, 50)}`, async () => {
      const answer = await get(path);
      expect(answer.status).to.equal(status);
      expect(answer.json.error).to.include(message).and.not.include('\n');
    });
  }

  it('refuses a client that asks too often; the client waits and is served', async () => {
    const strict = await placesServer({ gazetteer, maxRate: 2 });
    const own = await strict.listen({ port: 0, host: '127.0.0.1' });
    const statuses = await Promise.all(
      [1, 2, 3, 4].map(async (i) => (await fetch(`${own}/places/at?lat=${i}&lon=2`)).status),
    );
    expect(statuses.toSorted((a, b) => a - b)).to.deep.equal([200, 200, 429, 429]);
    const client = new PlaceLookUp({ provider: httpPlaces(own) });
    expect(await client.at(hut)).not.to.deep.equal([]);
    expect(client.asked).to.be.at.least(2);
    await strict.close();
  });
});

describe('a service of places that behaves badly', () => {
  let server: Server;
  let behave: RequestListener;
  let address = '';
  before(async () => {
    server = createServer((request, response) => behave(request, response));
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    address = `http://127.0.0.1:${(server.address() as { port: number }).port}`;
  });
  after(() => {
    server.closeAllConnections();
    server.close();
  });
  const failure = async (patience = 5) => {
    const client = new PlaceLookUp({ provider: httpPlaces(address), retries: 0, patience });
    const error: unknown = await client.at(hut).catch((reason: unknown) => reason);
    expect(error).to.be.instanceOf(ServiceError);
    const { kind, message } = error as ServiceError;
    expect(message).not.to.include('\n');
    return { kind, message };
  };
  const feature = (more: object, properties: object = {}) =>
    JSON.stringify({
      type: 'FeatureCollection',
      features: [
        {
          type: 'Feature',
          geometry: { type: 'Point', coordinates: [-33.6, 44.19] },
          properties: { kind: 'well', level: 'spot', text: 'Low Well', ...properties },
          ...more,
        },
      ],
    });

  for (const [what, status, body, kind, note] of [
    [
      'a page in HTML',
      200,
      '<!doctype html><p>Sign in</p>',
      'unfit',
      'it is not JSON; it starts "<!doctype html>',
    ],
    ['nothing at all', 200, '', 'unfit', 'it is empty'],
    ['JSON of another kind', 200, '{"results":[]}', 'unfit', 'not a GeoJSON FeatureCollection'],
    [
      'a line for a place',
      200,
      feature({ geometry: { type: 'LineString', coordinates: [] } }),
      'unfit',
      'features.0: an answer is a Point, not a LineString',
    ],
    [
      'an impossible position',
      200,
      feature({ geometry: { type: 'Point', coordinates: [44, 191] } }),
      'unfit',
      'latitude 191 is outside',
    ],
    [
      'a level that is none',
      200,
      feature({}, { level: 'town' }),
      'unfit',
      'features.0.properties.level: expected',
    ],
    ['a text that is none', 200, feature({}, { text: 7 }), 'unfit', 'features.0.properties.text'],
    ['a fault', 500, 'oops', 'failing', '/places/at answered 500'],
    ['a key that is missing', 401, '', 'refused', 'answered 401'],
    ['that it is busy', 429, '', 'busy', 'answered 429'],
  ] as const) {
    it(`answers ${what}: one clear line`, async () => {
      behave = (_, response) => response.writeHead(status, { 'content-type': 'application/json' }).end(body);
      const error = await failure();
      expect(error.kind).to.equal(kind);
      expect(error.message).to.include(note);
    });
  }

  it('drips slowly for ever: that is no answer in time', async () => {
    let dripping: NodeJS.Timeout | undefined;
    const closed = new Promise<void>((resolve) => {
      behave = (_, response) => {
        response.writeHead(200, { 'content-type': 'application/json' }).write('{"type":');
        dripping = setInterval(() => response.write(' '), 20);
        response.on('close', resolve);
      };
    });
    expect((await failure(0.3)).kind).to.equal('timed-out');
    await closed; // the connection is given back
    clearInterval(dripping);
  });

  it('answers more than there can be, or breaks off', async () => {
    behave = (_, response) => {
      response.writeHead(200);
      const piece = ' '.repeat(500_000);
      const more = () => response.destroyed || response.write(piece, () => setImmediate(more));
      more();
    };
    expect(await failure())
      .to.include({ kind: 'unfit' })
      .and.property('message')
      .to.include('longer than 4000000 bytes');
    behave = (_, response) => {
      response.writeHead(200, { 'content-length': '1000' }).write('{"type"');
      setImmediate(() => response.destroy());
    };
    expect((await failure()).kind).to.equal('unreachable');
  });

  it('is not there, or is no address', async () => {
    const client = new PlaceLookUp({ provider: httpPlaces('http://127.0.0.1:9'), retries: 0 });
    const error = (await client.at(hut).catch((reason: unknown) => reason)) as ServiceError;
    expect(error.kind).to.equal('unreachable');
    expect(error.userText).to.equal('The service cannot be reached. Check that you are connected.');
    expect(() => httpPlaces('places.example')).to.throw('Give one like https://places.example.');
  });

  it('receives both numbers, rounded if set, and nothing else of the user', async () => {
    const asked: string[] = [];
    behave = ({ url, headers }, response) => {
      asked.push(url!, ...Object.keys(headers));
      response.end(feature({}, { kind: 'hamlet', level: 'locality', text: 'Wick' }));
    };
    await new PlaceLookUp({ provider: httpPlaces(`${address}/v1/`), rounding: 1000 }).at(hut);
    const url = new URL(asked[0]!, address);
    expect(url.pathname).to.equal('/v1/places/at');
    expect([...url.searchParams.keys()]).to.deep.equal(['lat', 'lon', 'level']);
    const reported = { lat: Number(url.searchParams.get('lat')), lon: Number(url.searchParams.get('lon')) };
    expect(distance(reported, hut)).to.be.within(10, 720);
    expect(asked).not.to.include.members(['cookie']).and.not.to.include.members(['authorization']);
  });
});

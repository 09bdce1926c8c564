import {
  Formatter,
  InputError,
  Trail,
  ageOf,
  ahead,
  boundsOf,
  crossingsOf,
  fencesBounds,
  fixFrom,
  readGeoUri,
  routeFrom,
  staysOf,
  trailsByDay,
  writeGpx,
  type Fence,
  type Fix,
  type RouteGiven,
  type Stay,
  type TrailEntry,
} from 'aurelian-drift';
import { placeMessage } from 'aurelian-drift/page';
import { openingOf } from 'aurelian-drift/places';
import { SimulatedDevice, VirtualClock, journey } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { hut, setUp } from '../support/device.js';

const start = Date.UTC(2026, 4, 14, 8);
const east = (metres: number) => ahead(hut, 90, metres);
const circle = (id: string, metres: number): Fence => ({
  kind: 'circle',
  id,
  name: id.toUpperCase(),
  centre: east(metres),
  radius: 100,
});

/** A walk of one fix a second along a line, with waits: seconds at metres. */
function walked(...legs: readonly (readonly [metres: number, wait: number])[]): Trail {
  const trail = new Trail();
  let [seconds, at] = [0, legs[0]![0]];
  const step = () => trail.append(fixFrom({ time: start + seconds++ * 1000, ...east(at), accuracy: 3 }));
  for (const [metres, wait] of legs) {
    while (at < metres) {
      step();
      at = Math.min(metres, at + 2);
    }
    for (let i = 0; i < wait; i++) step();
  }
  return trail;
}

describe('a day told as stays', () => {
  it('has arrivals and departures by name, leaves out what is short, and knows what it cannot know', () => {
    // From inside A (0), past B (600) in 100 s, a rest of 300 s at 1000 outside all, to C (1500) to the end.
    const trail = walked([0, 120], [1000, 300], [1500, 200]);
    const fences = [circle('a', 0), circle('b', 600), circle('c', 1500)];
    const stays = staysOf(trail, {
      fences,
      nameOf: (at) => (Math.abs(at.lon - east(1000).lon) < 1e-4 ? 'The bench' : undefined),
    });
    expect(stays.map(({ name }) => name)).to.deep.equal(['A', 'B', 'The bench', 'C']);
    const [a, b, bench, c] = stays as [Stay, Stay, Stay, Stay];
    // 120 s of waiting, then 100 m to the edge at 2 m/s; from 500 m on, 100 s to the other edge.
    expect(a.arrival).to.equal(undefined);
    expect((a.departure! - start) / 1000).to.be.closeTo(170, 2);
    expect(b.fence).to.equal('b');
    expect([(b.arrival! - start) / 1000, (b.departure! - start) / 1000]).to.satisfy(
      ([from, to]: number[]) => Math.abs(from! - 370) < 2 && Math.abs(to! - 470) < 2,
    );
    expect(bench.fence).to.equal(undefined);
    expect(bench.duration).to.be.closeTo(300, 15);
    expect(bench.at!.lon).to.be.closeTo(east(1000).lon, 1e-4);
    expect(c.departure).to.equal(undefined);
    expect(c.to).to.equal(trail.summary().end);
    const long = staysOf(trail, { fences, least: 150 }).map(({ name }) => name);
    expect(long).to.deep.equal(['A', '44.20000° N, 33.58751° W', 'C']);
    expect(() => staysOf(trail, { fence: fences } as never)).to.throw(InputError, 'did you mean "fences"?');
  });

  it('does not invent an arrival or a departure in a gap', () => {
    const trail = new Trail();
    const add = (seconds: number, metres: number) =>
      trail.append(fixFrom({ time: start + seconds * 1000, ...east(metres), accuracy: 3 }));
    for (let i = 0; i < 5; i++) add(i, 500);
    trail.breakSegment();
    for (let i = 0; i < 100; i++) add(1000 + i, 0);
    trail.breakSegment();
    for (let i = 0; i < 5; i++) add(3000 + i, 500);
    const [stay, ...more] = staysOf(trail, { fences: [circle('a', 0)] });
    expect(more).to.deep.equal([]);
    expect([stay!.arrival, stay!.departure]).to.deep.equal([undefined, undefined]);
    expect([stay!.from, stay!.to].map((time) => (time - start) / 1000)).to.deep.equal([1000, 1099]);
  });
});

describe('small helpers', () => {
  it('give the crossings of a finished trail, and the box around fences, across the date line too', () => {
    const fences = [circle('a', 0), circle('b', 600)];
    const found = crossingsOf(walked([-200, 0], [1000, 0]), fences).map(
      ({ kind, fence }) => `${kind} ${fence}`,
    );
    expect(found).to.deep.equal(['enter a', 'exit a', 'enter b', 'exit b']);
    const [west, , right] = fencesBounds(fences)!;
    const edges = boundsOf([east(-100), east(700)])!;
    expect([west, right].map((lon, i) => Math.abs(lon - edges[i * 2]!) < 1e-5)).to.deep.equal([true, true]);
    const atLine = [179.99, -179.99].map((lon): Fence => ({
      kind: 'circle',
      id: `${lon}`,
      name: 'x',
      centre: { lat: 0, lon },
      radius: 100,
    }));
    expect(fencesBounds(atLine)![0]).to.be.above(fencesBounds(atLine)![2]);
    expect(fencesBounds([])).to.equal(undefined);
  });

  it('list stored trails by the day on which they began, in the zone of the user', () => {
    const entry = (id: string, begun?: number): TrailEntry => ({
      id,
      fixes: 1,
      distance: 100,
      finished: true,
      ...(begun !== undefined && { start: begun }),
    });
    const midnight = Date.UTC(2026, 4, 15);
    const entries = [entry('late', midnight + 3.6e6), entry('night', midnight - 3.6e6), entry('empty')];
    const days = (zone: string) =>
      trailsByDay(entries, zone).map(({ day, trails, distance }) => [
        day,
        trails.map(({ id }) => id).join(),
        distance,
      ]);
    expect(days('UTC')).to.deep.equal([
      ['2026-05-15', 'late', 100],
      ['2026-05-14', 'night', 100],
      [undefined, 'empty', 100],
    ]);
    expect(days('Etc/GMT+2')).to.deep.equal([
      ['2026-05-14', 'late,night', 200],
      [undefined, 'empty', 100],
    ]);
  });

  it('write a place as a message whose link reads back', () => {
    const fix = fixFrom({ time: start, lat: 44.2031234567, lon: -33.58124, accuracy: 17.3, altitude: 20 });
    const format = new Formatter({ locale: 'en-GB', timeZone: 'UTC' });
    const lines = placeMessage(fix, { address: '1 Mill Lane, Tolvay', format }).split('\n');
    expect(lines).to.deep.equal([
      '1 Mill Lane, Tolvay',
      '44.20312° N, 33.58124° W ±17 m',
      '14 May 2026, 08:00:00 UTC',
      'geo:44.203123,-33.58124;u=18',
    ]);
    expect(readGeoUri(lines[3]!)).to.deep.include({ lat: 44.203123, lon: -33.58124, accuracy: 18 });
    const bare = placeMessage(fixFrom({ time: start, ...hut }), { note: 'Here I am', format });
    expect(bare.split('\n')).to.deep.equal([
      'Here I am',
      '44.20000° N, 33.60000° W',
      '14 May 2026, 08:00:00 UTC',
      'geo:44.2,-33.6',
    ]);
  });

  it('tell whether a place is open and until when, over days that are off', () => {
    const opening = (given: unknown, text: string) =>
      openingOf({ details: { opening: given } }, Date.parse(text));
    const weekdays = { hours: '09:00/17:00', weekdays: [1, 2, 3, 4, 5], timeZone: 'UTC' };
    // 14 May 2026 is a Thursday.
    const told: [unknown, string, boolean, string | undefined][] = [
      [weekdays, '2026-05-14T08:30:00Z', false, '2026-05-14T09:00:00Z'],
      [weekdays, '2026-05-14T09:00:10Z', true, '2026-05-14T17:00:00Z'],
      [weekdays, '2026-05-15T17:00:00Z', false, '2026-05-18T09:00:00Z'],
      [
        [weekdays, { hours: '10:00/12:07', weekdays: [6], timeZone: 'UTC' }],
        '2026-05-16T11:00:00Z',
        true,
        '2026-05-16T12:07:00Z',
      ],
      [{ timeZone: 'UTC' }, '2026-05-14T08:30:00Z', true, undefined],
    ];
    for (const [given, text, open, until] of told)
      expect(opening(given, text), text).to.deep.equal({
        open,
        ...(until !== undefined && { until: Date.parse(until) }),
      });
    expect(openingOf({}, start)).to.equal(undefined);
    expect(() => opening({ hour: '09:00/17:00' }, '2026-05-14')).to.throw('did you mean "hours"?');
    expect(() => opening('always', '2026-05-14')).to.throw('conditions of a timetable');
  });

  it('let the age of a fix grow by itself while somebody listens, and not longer', async () => {
    const { receiver, clock } = setUp({ at: hut, permission: 'granted' });
    const $age = ageOf(receiver.$fix, clock);
    const told: (number | undefined)[] = [];
    const unsubscribe = $age.subscribe((age) => told.push(age));
    const fix = receiver.fix();
    await clock.advance(1);
    await fix;
    await clock.advance(3.5);
    expect(told).to.deep.equal([undefined, 0, 1, 2, 3]);
    unsubscribe();
    await clock.advance(10);
    expect(told).to.have.length(5);
    expect($age.get()).to.equal(13);
    receiver.placeByHand(hut);
    expect($age.get()).to.equal(0);
  });

  it('take a route as positions, GeoJSON, a line, or the text of a file', () => {
    const points = [hut, east(500), east(1000)];
    const line = { type: 'LineString', coordinates: points.map(({ lat, lon }) => [lon, lat]) };
    const routes: RouteGiven[] = [
      points,
      line,
      { type: 'Feature', properties: {}, geometry: line },
      { parts: [points] },
      writeGpx({ routes: [{ parts: [points] }] }),
      JSON.stringify({
        type: 'FeatureCollection',
        features: [{ type: 'Feature', properties: {}, geometry: line }],
      }),
    ];
    for (const given of routes) {
      const all = routeFrom(given).parts.flat();
      expect(all.map(({ lon }) => lon.toFixed(6))).to.deep.equal(points.map(({ lon }) => lon.toFixed(6)));
      expect([...journey(given, { reception: 'exact' })].at(-1)!.truth.lon).to.be.closeTo(
        east(1000).lon,
        1e-6,
      );
      expect(() => new SimulatedDevice({ route: given })).to.not.throw();
    }
    const wrong: [RouteGiven, string][] = [
      [[hut], 'a route needs two positions or more, got 1'],
      [[hut, { lat: 99, lon: 0 }], 'latitude 99'],
      ['walk.gpx', 'a route: this is no GPX'],
      [{ type: 'FeatureCollection', features: [] }, 'there is no line in it'],
    ];
    for (const [given, message] of wrong)
      expect(() => new SimulatedDevice({ route: given, clock: new VirtualClock() })).to.throw(
        InputError,
        message,
      );
  });

  it('tell the smallest radius so far while a fix is waited for', async () => {
    const { receiver, device, clock } = setUp({
      at: hut,
      permission: 'granted',
      networkFirst: [900, 400, 600],
    });
    const seen: (number | string | undefined)[] = [];
    receiver.$status.listen((status) =>
      seen.push(status.state === 'waiting' ? status.accuracy : status.state),
    );
    const fix: Promise<Fix> = receiver.fix({ accuracy: 50 });
    await clock.advance(20);
    expect((await fix).accuracy).to.be.below(50);
    expect(seen).to.deep.equal([undefined, 900, 400, 'ready']);
    expect(device.watches).to.equal(0);
  });
});

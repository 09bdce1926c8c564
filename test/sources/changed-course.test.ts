import { InputError, ahead, distance, readTracks, writeGpx, Trail, fixFrom } from 'aurelian-drift';
import { SimulatedDevice, VirtualClock, journey, scaledClock } from 'aurelian-drift/testing';
import { expect } from 'chai';

const HUT = { lat: 44.2, lon: -33.6 };
const ROUTE = [HUT, ahead(HUT, 90, 4000)];

describe('a scaled clock', () => {
  it('goes on from where it is at another tempo, and its alarms ring at their own times', async () => {
    const base = new VirtualClock(1000);
    const clock = scaledClock(10, 5000, base);
    const rung: [string, number][] = [];
    for (const seconds of [30, 100, 200]) clock.after(seconds, () => rung.push([`${seconds}`, clock.now()]));
    const cancel = clock.after(150, () => rung.push(['cancelled', clock.now()]));
    await base.advance(4); // 40 s of its own
    expect(clock.now()).to.equal(45_000);
    clock.tempo = 0;
    await base.advance(1000);
    expect(clock.now()).to.equal(45_000);
    clock.tempo = 2;
    await base.advance(30); // 60 s of its own: at 100
    cancel();
    clock.tempo = 100;
    await base.advance(1);
    expect(rung).to.deep.equal([
      ['30', 35_000],
      ['100', 105_000],
      ['200', 205_000],
    ]);
    for (const tempo of [-1, NaN, Infinity, '2' as never])
      expect(() => (clock.tempo = tempo), String(tempo)).to.throw(InputError, 'tempo');
  });

  it('has steady time where its base has it', () => {
    let steady = 0;
    const clock = scaledClock(5, 0, { now: () => 0, steady: () => steady, after: () => () => {} });
    steady = 100;
    expect(clock.steady!()).to.equal(500);
    clock.tempo = 1;
    steady = 200;
    expect(clock.steady!()).to.equal(600);
  });
});

describe('a pretend device', () => {
  it('goes on from where it is with another gait and reception', async () => {
    const clock = new VirtualClock();
    const device = new SimulatedDevice({ route: ROUTE, clock, reception: 'exact', permission: 'granted' });
    const fixes: { lat: number; lon: number; accuracy?: number | undefined }[] = [];
    const release = device.watch(
      { maxAge: 0 },
      {
        fix: ({ lat, lon, accuracy }) => fixes.push({ lat: lat, lon: lon, accuracy: accuracy ?? undefined }),
        bundle() {},
        error() {},
        gap() {},
        end() {},
      },
    );
    await clock.advance(100);
    const walked = distance(HUT, fixes.at(-1)!);
    expect(walked).to.be.within(100, 170); // 1.35 m/s, give or take
    expect(device.gait).to.equal('walk');
    device.gait = 'cycle';
    await clock.advance(2);
    expect(distance(HUT, fixes.at(-1)!)).to.be.within(walked, walked + 25);
    await clock.advance(98);
    expect(distance(HUT, fixes.at(-1)!) - walked).to.be.within(350, 650); // 4.8 m/s
    device.reception = 'street';
    await clock.advance(5);
    expect(fixes.at(-1)!.accuracy).to.be.above(18);
    device.moveTo(HUT);
    device.reception = 'exact';
    await clock.advance(5);
    expect(distance(HUT, fixes.at(-1)!)).to.be.below(0.01);
    expect(() => (device.gait = 'stroll' as never)).to.throw(InputError, 'walk');
    release();
    expect(device.watches).to.equal(0);
  });

  it('begins a journey anywhere on its route', () => {
    const moments = [...journey(ROUTE, { from: 3990, reception: 'exact' })];
    expect(moments[0]!.along).to.equal(3990);
    expect(distance(HUT, moments[0]!.truth)).to.be.closeTo(3990, 1);
    expect(moments.at(-1)!.along).to.be.closeTo(4000, 0.01);
    expect(moments.length).to.be.within(6, 14); // 10 m at 1.35 m/s
    expect([...journey(ROUTE, { from: 5000 })].length).to.equal(1);
  });
});

describe('a file of tracks of any format', () => {
  it('is recognised by its text, and by the ending of its name where that leaves a doubt', () => {
    const trail = new Trail({ name: 'W' });
    trail.append(fixFrom({ time: 1.7e12, ...HUT }));
    expect(readTracks(writeGpx({ trails: [trail] })).trails[0]!.name).to.equal('W');
    expect(readTracks('time,lat,lon\n2026-05-14T08:00:00Z,44.2,-33.6\n').trails[0]!.length).to.equal(1);
    expect(() => readTracks('nothing of it', { source: 'a.txt' })).to.throw(
      InputError,
      'a.txt: this is no GPX',
    );
    expect(() => readTracks('<gpx><trk></gpx>', { source: 'a.gpx' })).to.throw(InputError, 'a.gpx:1');
  });
});

import {
  Receiver,
  Recorder,
  tracksFrom,
  readCsv,
  readGpx,
  readKml,
  writeCsv,
  writeGeoJson,
  writeGpx,
  writeKml,
  type Fix,
  type Trail,
} from 'aurelian-drift';
import { SimulatedDevice, VirtualClock, replaySource } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { route } from '../support/device.js';

const PURPOSE = 'Record a walk.';

/** A walk with typical incidents: noise, silences, bundles, a hidden period. */
async function run(seed: number): Promise<Trail> {
  const clock = new VirtualClock();
  const source = new SimulatedDevice({
    route,
    clock,
    seed,
    permission: 'granted',
    reception: 'deep',
    background: 'by-level',
  });
  const receiver = new Receiver({ source, clock, purpose: PURPOSE });
  const recorder = new Recorder({ name: `Run ${seed}`, clock });
  recorder.start(receiver.follow());
  await clock.advance(300);
  source.hide();
  await clock.advance(60);
  source.show();
  await clock.advance(400);
  return recorder.finish();
}

/** The recording of a trail that is replayed to a follow. */
async function replay(trail: Trail): Promise<Trail> {
  const clock = new VirtualClock(trail.number(0, 'time'));
  const receiver = new Receiver({ source: replaySource(trail, clock), clock, purpose: PURPOSE });
  const recorder = new Recorder({ name: trail.name!, clock });
  const follow = receiver.follow();
  recorder.start(follow);
  await clock.settle(follow.outcome);
  return recorder.finish();
}

const FORMATS: Record<string, (trail: Trail) => Trail> = {
  GPX: (trail) => readGpx(writeGpx({ trails: [trail] })).trails[0]!,
  GeoJSON: (trail) => tracksFrom(JSON.parse(writeGeoJson({ trails: [trail] }))).trails[0]!,
  KML: (trail) => readKml(writeKml({ trails: [trail] })).trails[0]!,
  CSV: (trail) => readCsv(writeCsv({ trails: [trail] })).trails[0]!,
};

describe('a run, exported and played again', () => {
  for (const [name, through] of Object.entries(FORMATS)) {
    it(`through ${name} gives the same trail, with its breaks, and the same figures`, async () => {
      const recorded = await run(4);
      expect(recorded.length).to.be.above(300);
      expect(recorded.segments.length).to.be.above(1);
      const again = await replay(through(recorded));
      const fixes = (trail: Trail) => Array.from(trail, ({ marks: _, ...fix }: Fix) => fix);
      expect(fixes(again)).to.deep.equal(fixes(recorded));
      expect(again.segments).to.deep.equal(recorded.segments);
      expect(again.summary()).to.deep.equal(recorded.summary());
    });
  }
});

import { SmoothPath, Trail, distance, fixFrom, smoothTrail, type Fix } from 'aurelian-drift';
import { trailLayer, Camera, sheetScene } from 'aurelian-drift/map';
import { expect } from 'chai';

const HUT = { lat: 44.2, lon: -33.6 };

/** A walk on a straight line east, 1.4 m/s, with errors that no model of the library makes: a saw and a slow swing. */
function walk(count: number, gapAt = Infinity): Fix[] {
  return Array.from({ length: count }, (_, i) => {
    const saw = ((i * 7) % 11) - 5;
    const swing = 4 * Math.sin(i / 9);
    return fixFrom({
      time: 1.7e12 + (i + (i >= gapAt ? 400 : 0)) * 1000,
      lat: HUT.lat + (saw * 0.8 + swing) / 111_100,
      lon: HUT.lon + (i * 1.4) / 79_900,
      accuracy: 9,
    });
  });
}

describe('the smoothed path of a trail that grows', () => {
  for (const [what, gapAt] of [
    ['without a break', Infinity],
    ['with a break', 300],
  ] as const)
    it(`is that of the finished trail within 2 m, whatever the steps of its growth, ${what}`, () => {
      const fixes = walk(700, gapAt);
      const raw = new Trail();
      const path = new SmoothPath(raw);
      let settled = 0;
      fixes.forEach((fix, i) => {
        if (i === gapAt) raw.breakSegment();
        raw.append(fix);
        if (i % 13 === 0 || i > 690) expect(path.grow()).to.equal(true);
        // What is settled does not change.
        expect(path.settled.length).to.be.at.least(settled);
        settled = path.settled.length;
      });
      expect(path.grow()).to.equal(false);
      const whole = smoothTrail(raw);
      const shown = [
        ...path.settled,
        ...path.tail.slice(path.tail[0]?.time === path.settled.at(-1)?.time ? 1 : 0),
      ];
      expect(shown.map(({ time }) => time)).to.deep.equal(fixes.map(({ time }) => time));
      const apart = shown.map((fix, i) => distance(fix, whole.at(i)!));
      expect(Math.max(...apart)).to.be.below(2);
      expect(path.settled.segments.length).to.equal(gapAt === Infinity ? 1 : 2);
      // It does not tremble: the way from fix to fix is far shorter than the raw one, and close to the true one.
      const length = (of: readonly Fix[]) =>
        of.slice(1).reduce((sum, fix, i) => sum + distance(of[i]!, fix), 0);
      const truth = 699 * 1.4;
      expect(length(fixes)).to.be.above(truth * 2);
      expect(length(shown)).to.be.within(truth * 0.97, truth * 1.12);
    });

  it('grows at a constant cost: each fix is smoothed at most so often', () => {
    const raw = new Trail();
    const path = new SmoothPath(raw);
    let copied = 0;
    // eslint-disable-next-line @typescript-eslint/unbound-method -- called on a trail below
    const { appendFrom } = Trail.prototype;
    Trail.prototype.appendFrom = function (...given) {
      copied++;
      appendFrom.apply(this, given);
    };
    try {
      for (const fix of walk(2000)) {
        raw.append(fix);
        if (raw.length % 10 === 0) path.grow();
      }
    } finally {
      Trail.prototype.appendFrom = appendFrom;
    }
    expect(copied / 2000).to.be.below(25);
  });

  it('is drawn beside the raw one or instead of it, by choice', () => {
    const trail = Trail.from(walk(400));
    const camera = new Camera({ centre: trail.at(200)!, zoom: 16, width: 600, height: 400 });
    const points = (path: 'raw' | 'smoothed' | 'both') => {
      const { layers } = sheetScene(camera, { layers: [{ kind: 'trail', trail, paint: { path } }] });
      const steps = layers.flatMap((layer) => (/trail|provisional/.test(layer.id) ? layer.steps : []));
      const rings = steps.flatMap((step) => (step.kind === 'shape' ? step.rings : []));
      /** Mean change of direction from step to step, degrees: how much the line trembles. */
      const thin = steps.some((step) => step.kind === 'shape' && step.stroke?.width === 1);
      let turned = 0;
      let count = 0;
      for (const ring of rings)
        for (let i = 2; i + 3 < ring.length; i += 2) {
          const a = Math.atan2(ring[i + 1]! - ring[i - 1]!, ring[i]! - ring[i - 2]!);
          const b = Math.atan2(ring[i + 3]! - ring[i + 1]!, ring[i + 2]! - ring[i]!);
          turned += Math.abs(((((b - a) * 180) / Math.PI + 540) % 360) - 180);
          count++;
        }
      return { thin, trembling: turned / count };
    };
    const [raw, smoothed, both] = [points('raw'), points('smoothed'), points('both')];
    expect([raw.thin, smoothed.thin, both.thin]).to.deep.equal([false, false, true]);
    expect(raw.trembling).to.be.above(60);
    expect(smoothed.trembling).to.be.below(12);
    expect(() => trailLayer(trail, camera)).not.to.throw();
  });
});

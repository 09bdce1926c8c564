import { MotionMeter, ahead, fixFrom, motionOf, motionText, type Motion, type RawFix } from 'aurelian-drift';
import { journey, type Reception, type SpeedStatement } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { hut, played, route, setUp } from '../support/device.js';

const middle = (numbers: number[]) => numbers.toSorted((a, b) => a - b)[numbers.length >> 1] ?? NaN;
const turn = (a: number, b: number) => Math.abs(((a - b + 540) % 360) - 180);

/** Derived motion beside the truth, over walks with rests. */
function derivedUnder(reception: Reception, statedSpeed: SpeedStatement = 'absent') {
  const [speeds, courses]: [number[], number[]] = [[], []];
  let [walked, shown, within, resting, shownAtRest] = [0, 0, 0, 0, 0];
  for (let seed = 91; seed < 94; seed++) {
    const meter = new MotionMeter();
    const options = { seed, reception, statedSpeed, rests: { every: 500, for: 240 } };
    for (const { truth, fix } of journey(route, options)) {
      const motion = fix && meter.take(fixFrom(fix));
      if ((truth.speed ?? 0) < 0.3) {
        resting++;
        if (motion !== undefined) shownAtRest++;
        continue;
      }
      walked++;
      if (motion?.speedAccuracy === undefined) continue;
      shown++;
      speeds.push(Math.abs(motion.speed - truth.speed!) / truth.speed!);
      if (Math.abs(motion.speed - truth.speed!) <= motion.speedAccuracy) within++;
      if (motion.course !== undefined) courses.push(turn(motion.course, truth.course!));
    }
  }
  return {
    speed: middle(speeds),
    course: middle(courses),
    shown: shown / walked,
    within: within / shown,
    shownAtRest: shownAtRest / resting,
  };
}

describe('speed and course where none are stated', () => {
  for (const reception of ['meadow', 'wood', 'open', 'trees'] as const)
    it(`are derived from the positions under ${reception}, with their uncertainty`, () => {
      const { speed, course, shown, within, shownAtRest } = derivedUnder(reception);
      expect(speed).to.be.below(0.16);
      expect(course).to.be.below(10);
      expect(shown).to.be.above(0.85);
      expect(within).to.be.within(0.85, 1);
      expect(shownAtRest).to.be.below(0.25); // the seconds in which the rest is not seen yet
    });

  it('or are stated as 0 by a platform that does not know them', () => {
    const { speed, shown } = derivedUnder('open', 'zero');
    expect(speed).to.be.below(0.16);
    expect(shown).to.be.above(0.85);
  });

  it('are those of an exact walk, to its turn and after it', () => {
    const meter = new MotionMeter();
    const start = Date.UTC(2026, 4, 14, 8);
    const corner = ahead(hut, 90, 120);
    let motion: Motion | undefined;
    for (let i = 0; i <= 120; i++) {
      const at = i <= 60 ? ahead(hut, 90, 2 * i) : ahead(corner, 0, 2 * (i - 60));
      motion = meter.take(fixFrom({ ...at, time: start + i * 1000, accuracy: 3 }));
      if (i === 59 || i === 80) {
        expect(motion!.speed).to.be.closeTo(2, 0.02);
        expect(turn(motion!.course!, i === 59 ? 90 : 0)).to.be.below(1);
      }
    }
    expect(motion).to.include({ derived: true });
  });
});

describe('the motion of a follow', () => {
  it('is as stated where the platform states it, and absent at rest and in silence', async () => {
    const { receiver, clock, device } = setUp({ permission: 'granted', route });
    const $motion = motionOf(receiver.follow());
    await clock.advance(60);
    const { speed, course, derived } = $motion.get()!;
    expect(speed).to.be.closeTo(receiver.$fix.get()!.speed!, 1e-9);
    expect([Math.round(course!), derived]).to.deep.equal([90, false]);
    device.signal = false;
    await clock.advance(20);
    expect($motion.get()).to.equal(undefined);
  });

  it('begins anew after a gap', async () => {
    const { clock, receiver, at, sink } = played();
    const $motion = motionOf(receiver.follow());
    await clock.advance(0);
    const walk = async (seconds: number, metres: number) => {
      for (let i = 0; i < seconds; i++) {
        await clock.advance(1);
        sink().fix(at(0, metres + 3 * i) satisfies RawFix);
      }
    };
    await walk(30, 0);
    expect($motion.get()!.speed).to.be.closeTo(3, 0.05);
    sink().gap();
    expect($motion.get()).to.equal(undefined);
    await walk(30, 5000);
    expect($motion.get()!.speed).to.be.closeTo(3, 0.05);
  });

  it('is written with its uncertainty, and marked when it is derived', () => {
    expect(motionText({ speed: 1.36, course: 67.2, derived: false })).to.deep.equal({
      speed: '4.9 km/h',
      course: '67° ENE',
    });
    const derived = { speed: 1.36, speedAccuracy: 0.17, course: 67.2, courseAccuracy: 3.4, derived: true };
    expect(motionText(derived)).to.deep.equal({ speed: '≈ 4.9 ± 0.6 km/h', course: '≈ 67° ± 4° ENE' });
    expect(motionText(undefined)).to.deep.equal({ speed: '–', course: '–' });
  });
});

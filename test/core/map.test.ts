import { Trail, ahead, distance, fixFrom, type Position } from 'aurelian-drift';
import {
  Camera,
  Steering,
  crumbsOf,
  groundFrom,
  themed,
  trailLayer,
  LOOK,
  type MapShape,
} from 'aurelian-drift/map';
import { expect } from 'chai';
import fc from 'fast-check';
import { TrailPyramid } from 'aurelian-drift/internal';
import { clippedOutline } from '../../packages/aurelian-drift/src/core/scene/clip.js';
import { between, pushed } from '../../packages/aurelian-drift/src/core/scene/flight.js';
import { shapesLayer, shapesOnSheet } from '../../packages/aurelian-drift/src/core/scene/layers/shapes.js';
import { groundLayer } from '../../packages/aurelian-drift/src/core/scene/layers/ground.js';
import { LabelRoom } from '../../packages/aurelian-drift/src/core/scene/layers/label-room.js';
import { PLAIN_WORDS } from '../../packages/aurelian-drift/src/core/scene/map-words.js';
import { membersLayer } from '../../packages/aurelian-drift/src/core/scene/layers/members.js';
import { marginLayer } from '../../packages/aurelian-drift/src/core/scene/layers/margin.js';
import { onPin } from '../../packages/aurelian-drift/src/core/scene/layers/pins.js';
import { worldBoxOf } from '../../packages/aurelian-drift/src/core/scene/region.js';

const hut = { lat: 44.2, lon: -33.6 };
const start = Date.UTC(2026, 4, 14, 8);
const camera = new Camera({ centre: hut, zoom: 15, width: 640, height: 480 });
const fix = (at: Position, i = 0, more: object = {}) => fixFrom({ ...at, time: start + i * 1000, ...more });
const walk = (count: number, stride = 1.4, from = hut) =>
  Trail.from(
    Array.from({ length: count }, (_, i) =>
      fix(ahead(from, 70 + 0.5 * Math.sin(i / 40), i * stride), i, { speed: 1 + (i % 9) / 10 }),
    ),
  );

/** The points that a pyramid returns, run by run. */
function runsOf(pyramid: TrailPyramid, zoom: number, view: Camera): number[][] {
  const runs: number[][] = [];
  pyramid.visit(zoom, worldBoxOf(view, [0, 0, view.width, view.height]), {
    begin: (index) => runs.push([index]),
    go: (index) => runs.at(-1)!.push(index),
  });
  return runs;
}

describe('a trail made ready for drawing', () => {
  it('shows at each zoom a line within a pixel of every fix, with far fewer points, and ends where the user is', () => {
    const trail = walk(3000);
    const pyramid = new TrailPyramid(trail);
    for (const zoom of [10, 12, 14, 16]) {
      const view = camera.with({ zoom, width: 20_000, height: 20_000 });
      const shown = [...new Set(runsOf(pyramid, zoom, view).flat())].sort((a, b) => a - b);
      expect(shown[0]).to.equal(0);
      expect(shown.at(-1)).to.equal(2999);
      let next = 1;
      for (let i = 0; i < trail.length; i++) {
        while (shown[next]! < i) next++;
        const before = view.pixelOf(trail.at(shown[next - 1]!)!);
        const here = view.pixelOf(trail.at(i)!);
        if (i !== shown[next]) expect(Math.hypot(here.x - before.x, here.y - before.y)).to.be.below(1.0001);
      }
    }
    expect(runsOf(pyramid, 12, camera.with({ zoom: 12 })).flat().length).to.be.below(250);
  });

  it('grows with the trail to the same as one that was made of all of it', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 300 }), { minLength: 1, maxLength: 6 }), (pieces) => {
        const trail = new Trail();
        const growing = new TrailPyramid(trail);
        let index = 0;
        for (const count of pieces) {
          for (let i = 0; i < count; i++) trail.append(fix(ahead(hut, 60, index++ * 2), index));
          trail.breakSegment();
          expect(growing.grow()).to.equal(true);
        }
        expect(growing.length).to.equal(trail.length);
        expect(growing.grow()).to.equal(false);
        for (const zoom of [11, 15, 18]) {
          expect(runsOf(growing, zoom, camera)).to.deep.equal(runsOf(new TrailPyramid(trail), zoom, camera));
        }
      }),
      { numRuns: 30 },
    );
  });

  it('breaks between segments and where nothing was heard for long, but not where fixes are seldom by design', () => {
    const lines = (trail: Trail) =>
      trailLayer(trail, camera).steps.map((step) => (step.kind === 'shape' ? step.rings.length : 0))[0];
    const seldom = Trail.from(Array.from({ length: 9 }, (_, i) => fix(ahead(hut, 90, i * 80), i * 60)));
    expect(lines(seldom)).to.equal(1);
    const silent = Trail.from([...Array(20).keys(), 200, 201, 202].map((i) => fix(ahead(hut, 90, i * 2), i)));
    expect(lines(silent)).to.equal(2);
    const paused = walk(30);
    paused.breakSegment();
    for (let i = 30; i < 60; i++) paused.append(fix(ahead(hut, 90, i * 2), i));
    expect(lines(paused)).to.equal(2);
  });

  it('goes the short way over the date line, and is seen from both sides of it', () => {
    const trail = Trail.from([179.995, 179.999, -179.997].map((lon, i) => fix({ lat: 10, lon }, i)));
    for (const lon of [179.999, -179.999]) {
      const view = new Camera({ centre: { lat: 10, lon }, zoom: 14, width: 640, height: 480 });
      const step = trailLayer(trail, view).steps[0]!;
      const ring = step.kind === 'shape' ? Array.from(step.rings[0]!) : [];
      expect(
        Math.max(...ring.filter((_, i) => i % 2 === 0)) - Math.min(...ring.filter((_, i) => i % 2 === 0)),
      ).to.be.within(80, 110);
      expect(ring[0]).to.be.within(-200, 640);
    }
  });
});

describe('marks along a trail', () => {
  it('are 8 for 64 fixes a second apart at 8 s, and 9 for 65, with the first fix marked', () => {
    expect(crumbsOf(walk(64), { every: 8 })).to.deep.equal([0, 8, 16, 24, 32, 40, 48, 56]);
    expect(crumbsOf(walk(65), { every: 8 })).to.have.length(9);
  });

  it('lie a distance apart along the way, anew in each segment, and at both when both are asked', () => {
    const straight = Trail.from(Array.from({ length: 101 }, (_, i) => fix(ahead(hut, 90, i * 10), i)));
    expect(crumbsOf(straight, { beyond: 250 })).to.deep.equal([0, 25, 50, 75, 100]);
    expect(crumbsOf(straight, { beyond: 250, every: 40 })).to.deep.equal([0, 40, 80]);
    straight.breakSegment();
    straight.append(fix(ahead(hut, 0, 50), 200));
    expect(crumbsOf(straight, { every: 1000 })).to.deep.equal([0, 101]);
    expect(crumbsOf(straight, {})).to.deep.equal([]);
  });
});

describe('steering', () => {
  const at = (metres: number, more: object = {}) => fix(ahead(hut, 90, metres), 0, { accuracy: 40, ...more });

  it('sets the zoom once, so that the ring or a stated width fits; later the user’s own is kept', () => {
    const ring = new Steering('centred').steer(camera, at(0, { accuracy: 400 }), 0);
    expect((ring.metresPerPixel * 480) / 1600).to.be.closeTo(1, 0.01); // four times 400 m across the narrow side
    const wide = new Steering('centred', { firstWidth: 2000 });
    const first = wide.steer(camera, at(0), 0);
    expect(first.metresPerPixel * 480).to.be.closeTo(2000, 5);
    expect(wide.steer(first.with({ zoom: 12 }), at(50), 0).zoom).to.equal(12);
    expect(new Steering('centred', {}, true).steer(camera, at(0), 0).zoom).to.equal(15);
  });

  it('yields to the hand until it is asked again, or for the time that was asked for', () => {
    const steering = new Steering('centred', {}, true);
    steering.touch(1000);
    expect([steering.active, steering.suspended]).to.deep.equal([false, true]);
    expect(steering.steer(camera, at(500), 1e9)).to.equal(camera);
    steering.set('centred');
    expect(steering.steer(camera, at(500), 0).centre.lon).to.be.above(hut.lon);
    const patient = new Steering('centred', { resumeAfter: 10 }, true);
    patient.touch(1000);
    expect(patient.steer(camera, at(500), 10_900)).to.equal(camera);
    expect(patient.steer(camera, at(500), 11_000)).not.to.equal(camera);
    expect(new Steering('free').steer(camera, at(500), 0)).to.equal(camera);
  });

  it('turns the course up and holds the user below the middle, to see ahead', () => {
    const steering = new Steering('course-up', { ahead: 0.25 }, true);
    const user = at(500, { course: 236, speed: 1.5 });
    const view = steering.steer(camera, user, 0);
    expect(view.turn).to.equal(236);
    const { x, y } = view.pixelOf(user);
    expect([Math.round(x), Math.round(y)]).to.deep.equal([320, 360]);
    const before = view.pixelOf(ahead(user, 236, 100));
    expect([Math.round(before.x), before.y < y]).to.deep.equal([320, true]);
    expect(steering.steer(view, at(500), 0).turn).to.equal(236); // at rest it stays as it was
  });
});

describe('a view in motion', () => {
  it('goes from one view to the other, the short way over the date line and round the compass', () => {
    const from = camera.with({ centre: { lat: 10, lon: 179 }, turn: 350 });
    const to = camera.with({ centre: { lat: 10, lon: -179 }, turn: 20, zoom: 13 });
    expect(between(from, to, 0)).to.deep.include({ zoom: 15 });
    expect(between(from, to, 1)).to.equal(to);
    const half = between(from, to, 0.5);
    expect(Math.abs(half.centre.lon)).to.be.closeTo(180, 1e-6);
    expect([half.zoom, half.turn]).to.deep.equal([14, 5]);
  });

  it('runs out after a push: as far in small steps as in one, and then it is over', () => {
    let [gone, velocity, steps] = [0, { x: 900, y: 0 }, 0];
    for (let next = pushed(velocity, 0.016); next !== undefined; next = pushed(velocity, 0.016)) {
      gone += next.dx;
      velocity = next.velocity;
      expect(++steps).to.be.below(200);
    }
    expect(gone).to.be.closeTo(0.18 * (900 - 12), 4); // the integral of e^(−t/τ), down to the minimum speed
    expect(pushed({ x: 900, y: 0 }, 0.16)!.dx).to.be.closeTo(
      [...Array(10)].reduce(
        (state: { v: number; x: number }) => {
          const { dx, velocity: after } = pushed({ x: state.v, y: 0 }, 0.016)!;
          return { v: after.x, x: state.x + dx };
        },
        { v: 900, x: 0 },
      ).x,
      1e-9,
    );
  });
});

describe('shapes in metres', () => {
  const rings = (shape: MapShape, view = camera) => {
    const [step] = shapesLayer(shapesOnSheet([shape]), view).steps;
    return step?.kind === 'shape' ? Array.from(step.rings[0]!) : [];
  };

  it('a circle of 200 m has its edge 200 m from the centre, within a percent, turned or not', () => {
    for (const turn of [0, 77]) {
      const view = camera.with({ turn });
      const ring = rings({ kind: 'circle', centre: hut, radius: 200 }, view);
      for (let i = 0; i < ring.length; i += 2) {
        expect(distance(hut, view.positionAt(ring[i]!, ring[i + 1]!))).to.be.within(198, 202);
      }
    }
  });

  it('lines and areas are in their places, and those far outside are not drawn', () => {
    const east = ahead(hut, 90, 100);
    const line = rings({ kind: 'line', points: [hut, east] });
    expect(line.slice(0, 2)).to.deep.equal([320, 240]);
    expect(line[2]).to.be.closeTo(camera.pixelOf(east).x, 1e-9);
    expect(
      rings({
        kind: 'area',
        points: [
          { lat: 0, lon: 0 },
          { lat: 0, lon: 1 },
          { lat: 1, lon: 1 },
        ],
      }),
    ).to.deep.equal([]);
  });
});

describe('a background of one’s own', () => {
  it('is painted by the given rules, and only near the visible part', () => {
    const ground = groundFrom({
      type: 'FeatureCollection',
      features: [
        {
          type: 'Feature',
          properties: { kind: 'marsh' },
          geometry: {
            type: 'Polygon',
            coordinates: [
              [
                [-33.601, 44.199],
                [-33.599, 44.199],
                [-33.599, 44.201],
              ],
            ],
          },
        },
        {
          type: 'Feature',
          properties: { kind: 'marsh' },
          geometry: {
            type: 'Polygon',
            coordinates: [
              [
                [-33.62, 44.19],
                [-33.619, 44.19],
                [-33.619, 44.191],
              ],
            ],
          },
        },
        {
          type: 'Feature',
          properties: { kind: 'wood' },
          geometry: {
            type: 'Polygon',
            coordinates: [
              [
                [-33.6, 44.2],
                [-33.599, 44.2],
                [-33.599, 44.201],
              ],
            ],
          },
        },
      ],
    });
    const paint = [{ kind: 'marsh', coats: [{ fill: '#123456' }] }];
    const { steps } = groundLayer(ground, camera, paint);
    expect(
      steps.map((step) => (step.kind === 'shape' ? [step.fill, step.rings.length] : step.kind)),
    ).to.deep.equal([['#123456', 1]]);
    expect(groundLayer(ground, camera.with({ zoom: 12 }), paint).steps[0])
      .to.have.property('rings')
      .with.length(2);
    expect(groundLayer(ground, camera, paint, [0, 0, 40, 40]).steps).to.deep.equal([]);
  });
});

describe('an outline cut to a part of the picture', () => {
  const inside = (ring: readonly number[], x: number, y: number) => {
    let is = false;
    for (let i = 0, j = ring.length - 2; i < ring.length; j = i, i += 2) {
      const [ax, ay, bx, by] = [ring[j]!, ring[j + 1]!, ring[i]!, ring[i + 1]!];
      if (ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax)) is = !is;
    }
    return is;
  };
  const coordinate = fc.integer({ min: -100, max: 200 });

  it('fills the same places within the part, and stays within it', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(coordinate, coordinate), { minLength: 3, maxLength: 30 }),
        fc.array(
          fc.tuple(
            fc.double({ min: 0.01, max: 99.99, noNaN: true }),
            fc.double({ min: 0.01, max: 79.99, noNaN: true }),
          ),
          { maxLength: 20 },
        ),
        (corners, places) => {
          const ring = corners.flat();
          const cut = clippedOutline(ring, [0, 0, 100, 80]);
          for (const [x, y] of places) expect(inside(cut, x, y), `${x}, ${y}`).to.equal(inside(ring, x, y));
          for (let i = 0; i < cut.length; i += 2) {
            expect(cut[i]).to.be.within(0, 100);
            expect(cut[i + 1]).to.be.within(0, 80);
          }
        },
      ),
    );
  });

  it('leaves nothing of the parts outside, and all of the parts inside', () => {
    expect(clippedOutline([200, 0, 300, 0, 300, 50], [0, 0, 100, 80])).to.deep.equal([]);
    expect(clippedOutline([10, 10, 20, 10, 20, 30], [0, 0, 100, 80])).to.deep.equal([10, 10, 20, 10, 20, 30]);
  });
});

describe('other members', () => {
  it('stand in their places with their names, and state the kind of sharing and the age', () => {
    const room = new LabelRoom();
    const members = [
      { id: 'a', name: 'Ada <b>', ...ahead(hut, 90, 100) },
      { id: 'b', name: 'Bea', ...ahead(hut, 270, 200), age: 125, state: 'late' as const },
      { id: 'c', name: 'Cy', ...ahead(hut, 0, 9000) },
    ];
    const { steps } = membersLayer(members, camera, room, PLAIN_WORDS);
    const words = steps.flatMap((step) => (step.kind === 'text' ? [step.text] : []));
    expect(words).to.deep.equal(['Ada <b>', 'Bea, late, 2 min 5 s ago']); // the third is out of sight
    const moons = steps.flatMap((step) => (step.kind === 'shape' && step.fill !== undefined ? [step] : []));
    expect(moons).to.have.length(2);
    const xs = Array.from(moons[0]!.rings[0]!).filter((_, i) => i % 2 === 0);
    expect((Math.min(...xs) + Math.max(...xs)) / 2).to.be.closeTo(camera.pixelOf(members[0]!).x, 1e-6);
    expect(moons[0]!.fill).not.to.equal(moons[1]!.fill); // faded
  });
});

describe('a pin', () => {
  it('is hit by a finger on its head or its shaft, and not beside it', () => {
    expect([onPin(0, 0), onPin(0, -25), onPin(10, -28), onPin(-13, -10)]).to.deep.equal([
      true,
      true,
      true,
      true,
    ]);
    expect([onPin(0, 20), onPin(25, -20), onPin(0, -50)]).to.deep.equal([false, false, false]);
  });
});

describe('the scale', () => {
  it('is written in the chosen units, and is as long as stated', () => {
    const label = (units: 'metric' | 'imperial' | 'nautical', zoom: number) => {
      const { steps } = marginLayer(camera.with({ zoom }), { units });
      const text = steps.find((step) => step.kind === 'text' && /^[\d.]+ \w+$/.test(step.text));
      return text?.kind === 'text' ? text.text : '';
    };
    expect([label('metric', 15), label('metric', 11)]).to.deep.equal(['200 m', '5 km']);
    expect([label('imperial', 15), label('imperial', 11)]).to.deep.equal(['1000 ft', '2 mi']);
    expect([label('nautical', 15), label('nautical', 11)]).to.deep.equal(['2 cbl', '2 nmi']);
  });
});

describe('themes', () => {
  const contrast = (a: string, b: string) => {
    const luminance = (colour: string) => {
      const [r, g, bl] = [1, 3, 5].map((i) => {
        const part = parseInt(colour.slice(i, i + 2), 16) / 255;
        return part <= 0.04045 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4;
      }) as [number, number, number];
      return 0.2126 * r + 0.7152 * g + 0.0722 * bl;
    };
    const [light, dark] = [luminance(a), luminance(b)].sort((x, y) => y - x) as [number, number];
    return (light + 0.05) / (dark + 0.05);
  };

  it(
    'keep words readable on paper, and symbols distinct from the ground, by day, at dusk ' + 'and in print',
    () => {
      for (const theme of ['day', 'dusk', 'print'] as const) {
        const paper = themed(LOOK.parchment, theme);
        for (const words of [LOOK.ink, LOOK.goldText, LOOK.alertText]) {
          expect(contrast(themed(words, theme), paper), `${theme} ${words}`).to.be.at.least(4.5);
        }
        for (const sign of [LOOK.violet, LOOK.alert]) {
          expect(
            contrast(themed(sign, theme), themed(LOOK.meadow, theme)),
            `${theme} ${sign}`,
          ).to.be.at.least(2.8);
        }
      }
      expect(contrast(themed(LOOK.parchment, 'dusk'), '#000000')).to.be.below(2);
      expect(themed(LOOK.parchment, 'print')).to.equal('#ffffff');
    },
  );
});

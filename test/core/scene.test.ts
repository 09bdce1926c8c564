import { ahead, boundsContain, distance, fixFrom, type Bounds, type CircleFence } from 'aurelian-drift';
import {
  Camera,
  fenceShapes,
  fencesLayer,
  type FencesPaint,
  groundFrom,
  kiteLayer,
  writeSvg,
  sheetScene,
  stillPicture,
  type Step,
} from 'aurelian-drift/map';
import { expect } from 'chai';
import fc from 'fast-check';
import { spawnSync } from 'node:child_process';
import { fixes } from '../support/made.js';
import { Trail } from 'aurelian-drift';

const time = Date.UTC(2026, 4, 14, 8);
const hut = { lat: 44.2, lon: -33.6 };
const camera = new Camera({ centre: hut, zoom: 15, width: 640, height: 360 });
const anyCamera = fc
  .record({
    centre: fc.record({
      lat: fc.double({ min: -75, max: 75, noNaN: true }),
      lon: fc.double({ min: -180, max: 180, noNaN: true }),
    }),
    // From this zoom on, a picture of this size stays within the edges of the map.
    zoom: fc.double({ min: 7, max: 20, noNaN: true }),
    turn: fc.double({ min: 0, max: 360, noNaN: true }),
    width: fc.integer({ min: 100, max: 2000 }),
    height: fc.integer({ min: 100, max: 2000 }),
  })
  .map((view) => new Camera(view));
const discs = (steps: readonly Step[]) => steps.filter((step) => step.kind === 'disc');

describe('a camera', () => {
  it('gives back its centre and zoom, with the centre in the middle', () => {
    expect([camera.centre, camera.zoom]).to.deep.equal([hut, 15]);
    expect(camera.pixelOf(hut)).to.deep.equal({ x: 320, y: 180 });
    expect(boundsContain(camera.bounds, hut)).to.equal(true);
  });

  it('refuses a zoom out of range or of another type, naming the range', () => {
    expect(() => camera.with({ zoom: 37 })).to.throw('zoom must be a number from 0 to 22, got 37');
    expect(() => camera.with({ zoom: '12' as unknown as number })).to.throw(
      'zoom must be a number from 0 to 22, got 12',
    );
    expect(() => camera.with({ centre: { lat: 100, lon: 0 } })).to.throw('latitude 100');
  });

  it('turns pixels into positions and back, turned or not, across the date line too', () => {
    fc.assert(
      fc.property(
        anyCamera,
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (view, u, v) => {
          const [x, y] = [u * view.width, v * view.height];
          const again = view.pixelOf(view.positionAt(x, y));
          expect(again.x).to.be.closeTo(x, 0.01);
          expect(again.y).to.be.closeTo(y, 0.01);
        },
      ),
    );
  });

  it('keeps the place under the pixel when it zooms, and moves with the hand when it pans', () => {
    fc.assert(
      fc.property(anyCamera, fc.double({ min: -1, max: 1, noNaN: true }), (view, by) => {
        const held = view.positionAt(30, 40);
        const zoomed = view.zoomedAround(view.zoom + by, 30, 40).pixelOf(held);
        expect(zoomed.x).to.be.closeTo(30, 0.05);
        expect(zoomed.y).to.be.closeTo(40, 0.05);
        const panned = view.panned(12, -7).pixelOf(held);
        expect(panned.x).to.be.closeTo(42, 0.05);
        expect(panned.y).to.be.closeTo(33, 0.05);
      }),
    );
  });

  it('frames a box with its margin on every side', () => {
    const boxes = fc.record({
      lat: fc.double({ min: -70, max: 70, noNaN: true }),
      lon: fc.double({ min: -180, max: 180, noNaN: true }),
      size: fc.double({ min: 0.001, max: 5, noNaN: true }),
    });
    fc.assert(
      fc.property(boxes, fc.double({ min: 0, max: 360, noNaN: true }), ({ lat, lon, size }, turn) => {
        const east = lon + size > 180 ? lon + size - 360 : lon + size;
        const bounds: Bounds = [lon, lat, east, lat + size];
        const framed = camera.with({ turn }).framing(bounds, 40, 22);
        for (const [cornerLon, cornerLat] of [
          [lon, lat],
          [east, lat],
          [lon, lat + size],
          [east, lat + size],
        ] as const) {
          const { x, y } = framed.pixelOf({ lat: cornerLat, lon: cornerLon });
          expect(x).to.be.within(39.5, 600.5);
          expect(y).to.be.within(39.5, 320.5);
        }
      }),
    );
  });

  it('measures the ground it shows', () => {
    const a = camera.positionAt(270, 180);
    const b = camera.positionAt(370, 180);
    expect(distance(a, b)).to.be.closeTo(100 * camera.metresPerPixel, 0.5);
  });
});

describe('the kite', () => {
  const ringOf = (accuracy: number) => discs(kiteLayer(fixFrom({ time, ...hut, accuracy }), camera).steps)[0];

  it('has a ring of its accuracy on the ground', () => {
    const edge = camera.pixelOf(ahead(hut, 90, 140));
    expect((ringOf(140) as { radius: number }).radius).to.be.closeTo(edge.x - 320, 0.5);
  });

  it('points along the course, and is plain without one', () => {
    const outline = (course?: number) => {
      const fix = fixFrom({ time, ...hut, ...(course !== undefined && { course, speed: 1 }) });
      const shape = kiteLayer(fix, camera).steps.find((step) => step.kind === 'shape');
      return Array.from(shape!.rings[0]!);
    };
    const [noseX, noseY] = outline(236) as [number, number];
    const heading = (Math.atan2(noseX - 320, 180 - noseY) * 180) / Math.PI;
    expect((heading + 360) % 360).to.be.closeTo(236, 1e-6);
    const [x, y, rightX, rightY] = outline() as [number, number, number, number];
    expect([x - 320, 180 - y]).to.deep.equal([0, rightX - 320]);
    expect(rightY).to.equal(180);
  });

  it('fades and states its age in words when it is old', () => {
    const fix = fixFrom({ time, ...hut });
    const texts = (now: number) =>
      kiteLayer(fix, camera, { now }).steps.flatMap((step) => (step.kind === 'text' ? [step.text] : []));
    expect(texts(time + 10_000)).to.deep.equal([]);
    expect(texts(time + 65_000)).to.deep.equal(['1 min 5 s ago']);
  });
});

describe('a picture', () => {
  const fence = (name: string): CircleFence => ({ kind: 'circle', id: 'a', name, centre: hut, radius: 200 });

  it('shows a circle of 200 m as 200 m, within a percent', () => {
    const [step] = fencesLayer(fenceShapes([fence('Hut')]), camera).steps;
    if (step?.kind !== 'shape') throw new Error('a fence is a shape');
    const ring = step.rings[0]!;
    for (let i = 0; i + 1 < ring.length; i += 2) {
      expect(distance(hut, camera.positionAt(ring[i]!, ring[i + 1]!))).to.be.within(198, 202);
    }
  });

  it(
    'draws a fence in each state unlike in the others: filled inside and where it is closed, dotted ' +
      'where it is not watched',
    () => {
      const its = new Set(['a']);
      const paints: Record<string, FencesPaint> = {
        outside: {},
        inside: { inside: its },
        uncertain: { uncertain: its },
        off: { off: its },
        closed: { toneOf: () => 'closed' },
      };
      const drawn = Object.entries(paints).map(([state, paint]) => {
        const step = fencesLayer(fenceShapes([fence('Hut')]), camera, paint).steps.at(-1);
        if (step?.kind !== 'shape') throw new Error('a fence is a shape');
        return [state, step.fill === undefined ? 'empty' : 'filled', JSON.stringify(step.stroke)] as const;
      });
      expect(drawn.map(([state, fill]) => `${state} ${fill}`)).to.deep.equal([
        'outside empty',
        'inside filled',
        'uncertain empty',
        'off empty',
        'closed filled',
      ]);
      expect(new Set(drawn.map(([, , stroke]) => stroke)).size).to.equal(5);
    },
  );

  it('keeps names with markup as text, in well-formed SVG', () => {
    const name = '<script>alert("x")</script> & \u0007co';
    const trail = Trail.from(fixes(50), { name });
    const svg = writeSvg(
      sheetScene(camera, {
        layers: [
          { kind: 'trail', trail },
          { kind: 'fences', fences: [fence(name)] },
        ],
        margin: { title: name, credit: name },
      }),
    );
    const { status, stderr } = spawnSync('xmllint', ['--noout', '-'], { input: svg, encoding: 'utf8' });
    expect(status, stderr).to.equal(0);
    expect(svg).not.to.include('<script');
    expect(svg).to.include('&lt;script&gt;alert(&quot;x&quot;)&lt;/script&gt; &amp; \uFFFDco');
  });

  it('has one kite however often the place changed, and a grid where there is no ground', () => {
    const svg = writeSvg(sheetScene(camera, { fix: fixFrom({ time, ...hut }) }));
    expect(svg.match(/<g id="kite">/g)).to.have.length(1);
    expect(svg).to.include('<g id="grid">').and.not.to.include('<g id="ground">');
  });

  it('of a place has the requested size, with the kite in the middle, and a text description', () => {
    const { svg, alt } = stillPicture(fixFrom({ time, ...hut, accuracy: 40 }), { width: 640, height: 360 });
    expect(svg).to.match(/^<svg [^>]*width="640" height="360"/);
    expect(svg).to.include('<circle cx="320" cy="180"');
    expect(alt).to.equal('Own place 44.20000° N, 33.60000° W ±40 m');
  });

  it('breaks the line of a trail where the trail is broken', () => {
    const trail = new Trail();
    const at = (metres: number) => fixFrom({ time: time + metres * 1000, ...ahead(hut, 90, metres) });
    for (const metres of [0, 50, 100]) trail.append(at(metres));
    trail.breakSegment();
    for (const metres of [300, 350]) trail.append(at(metres));
    const svg = writeSvg(sheetScene(camera, { layers: [{ kind: 'trail', trail }] }));
    const line = /<g id="trail">\n<path d="([^"]+)"/.exec(svg)![1]!;
    expect(line.match(/M/g)).to.have.length(2);
    expect(line.match(/L/g)).to.have.length(3);
  });

  it('names the path of an impossible position in its ground', () => {
    const document = {
      type: 'Feature',
      geometry: {
        type: 'LineString',
        coordinates: [
          [0, 0],
          [0, 99],
        ],
      },
      properties: {},
    };
    expect(() => groundFrom(document)).to.throw('geometry.coordinates.1: latitude 99');
  });
});

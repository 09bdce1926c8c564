/* Moves a map under a heavy load and measures the time of each frame, script and raster together. */
import { Trail, ahead, fixFrom, type Fence } from 'aurelian-drift';
import { MapSheet, groundFrom } from 'aurelian-drift/map';
import { randomFrom } from 'aurelian-drift/testing';

const MIDDLE = { lat: 44.2, lon: -33.6 };

/** Result of one kind of movement: milliseconds a frame. */
export interface Frames {
  readonly times: readonly number[];
}

declare global {
  interface Window {
    ready: Promise<void>;
    pan(zoom: number, frames: number): Promise<Frames>;
    /** Whole pictures: each of their frames, and the sum of them. */
    fresh(zoom: number, times: number): Promise<{ frames: Frames; wholes: Frames }>;
    /** The frame after a change of one of many pins. */
    pins(count: number, times: number): Promise<Frames>;
    plain(zoom: number, times: number): Frames;
  }
}

const random = randomFrom(3);
let sheet: MapSheet;
let trail: Trail;

/** A walk to and fro on the island for eleven days and nights, one fix a second. */
function longWalk(fixes: number): Trail {
  const walk = new Trail({ name: 'Eleven days' });
  const time = Date.UTC(2026, 4, 14);
  let [east, north, course] = [0, 0, 0];
  for (let i = 0; i < fixes; i++) {
    course += 0.08 * random.normal();
    // Turns back towards the middle when it is far away.
    if (Math.hypot(east, north * 1.5) > 4000) course = Math.atan2(-east, -north) + 0.3 * random.normal();
    east += 1.35 * Math.sin(course) + 0.3 * random.normal();
    north += 1.35 * Math.cos(course) + 0.3 * random.normal();
    walk.append(
      fixFrom({
        time: time + i * 1000,
        lat: MIDDLE.lat + north / 111_100,
        lon: MIDDLE.lon + east / 79_900,
        accuracy: 6,
        speed: 1 + 0.8 * random.uniform(),
      }),
    );
  }
  return walk;
}

function fenceIndex(count: number): Fence[] {
  return Array.from({ length: count }, (_, i) => {
    const centre = ahead(MIDDLE, random.uniform() * 360, 6000 * Math.sqrt(random.uniform()));
    return { kind: 'circle', id: `f${i}`, name: `Fence ${i}`, centre, radius: 20 + 100 * random.uniform() };
  });
}

/** Start of the running frame. */
let began = 0;
const first = window.requestAnimationFrame.bind(window);
/** Callbacks of the page run after the one that takes the time, whenever they were registered. */
const waiting: FrameRequestCallback[] = [];
window.requestAnimationFrame = (callback) => waiting.push(callback);
first(function turn(now) {
  began = performance.now();
  first(turn);
  for (const callback of waiting.splice(0)) callback(now);
});

/** One frame: from before the map draws until its pixels exist. */
function frame(act: () => void): Promise<number> {
  return new Promise((resolve) => {
    act();
    requestAnimationFrame(() => {
      force();
      resolve(performance.now() - began);
    });
  });
}

/** Reading a pixel back waits for the raster. */
function force(): void {
  const canvas = document.getElementById('map')?.shadowRoot?.querySelector('canvas');
  canvas?.getContext('2d')?.getImageData(0, 0, 1, 1);
}

window.pan = async (zoom, frames) => {
  sheet.look({ centre: MIDDLE, zoom });
  await frame(() => sheet.redraw());
  await new Promise((resolve) => setTimeout(resolve, 200)); // until the drawing is complete
  const times: number[] = [];
  const stage = document.getElementById('map')?.shadowRoot?.querySelector('.stage');
  if (!(stage instanceof HTMLElement)) throw new Error('there is no map');
  const at = (type: string, x: number, y: number) =>
    stage.dispatchEvent(
      new PointerEvent(type, { clientX: x, clientY: y, pointerId: 1, button: 0, bubbles: true }),
    );
  stage.setPointerCapture = () => {};
  let [x, y] = [640, 320];
  at('pointerdown', x, y);
  for (let i = 0; i < frames; i++) {
    x += 14 * Math.cos(i / 20);
    y += 9 * Math.sin(i / 15);
    const time = await frame(() => at('pointermove', x, y));
    times.push(time);
    draw(times);
  }
  at('pointerup', x, y);
  return { times };
};

window.fresh = async (zoom, times) => {
  const frames: number[] = [];
  const wholes: number[] = [];
  sheet.look({ centre: MIDDLE, zoom });
  for (let i = 0; i < times; i++) {
    while (sheet.work.pending) await frame(() => {});
    await new Promise((resolve) => setTimeout(resolve, 200));
    const { whole } = sheet.work;
    let all = 0;
    let act = () => sheet.layers.show('fences', i % 2 === 1); // everything is drawn again
    while (sheet.work.whole === whole) {
      const time = await frame(act);
      frames.push(time);
      all += time;
      act = () => {};
    }
    wholes.push(all);
    draw(frames);
  }
  sheet.layers.show('fences', true);
  return { frames: { times: frames }, wholes: { times: wholes } };
};

window.pins = async (count, times) => {
  const { pins } = sheet;
  const place = () => ahead(MIDDLE, random.uniform() * 360, 3000 * Math.sqrt(random.uniform()));
  pins.addAll(Array.from({ length: count }, (_, i) => ({ id: `pin ${i}`, ...place(), text: `Pin ${i}` })));
  sheet.look({ centre: MIDDLE, zoom: 15 });
  const all: number[] = [];
  for (let i = 0; i < times; i++) {
    while (sheet.work.pending) await frame(() => {});
    await new Promise((resolve) => setTimeout(resolve, 50));
    all.push(await frame(() => pins.change(`pin ${i * 7}`, { ...place(), open: i % 2 === 0 })));
  }
  pins.clear();
  return { times: all };
};

/** The same trail as one plain path on a plain canvas. */
window.plain = (zoom, times) => {
  const canvas = document.createElement('canvas');
  canvas.width = 1280;
  canvas.height = 640;
  const context = canvas.getContext('2d', { willReadFrequently: true }) as CanvasRenderingContext2D;
  const all: number[] = [];
  for (let round = 0; round < times; round++) {
    const start = performance.now();
    context.clearRect(0, 0, 1280, 640);
    context.beginPath();
    const scale = (256 * 2 ** zoom) / 360;
    for (let i = 0; i < trail.length; i++) {
      const x = 640 + (trail.number(i, 'lon') - MIDDLE.lon) * scale;
      const y =
        320 - ((trail.number(i, 'lat') - MIDDLE.lat) * scale) / Math.cos((MIDDLE.lat * Math.PI) / 180);
      if (i === 0) context.moveTo(x, y);
      else context.lineTo(x, y);
    }
    context.strokeStyle = '#5b4a8a';
    context.lineWidth = 3.4;
    context.stroke();
    context.getImageData(0, 0, 1, 1);
    all.push(performance.now() - start);
  }
  return { times: all };
};

/** Each frame as a bar, and a line at 16 ms. */
function draw(times: readonly number[]): void {
  const context = (document.getElementById('chart') as HTMLCanvasElement).getContext('2d');
  if (context === null) return;
  context.clearRect(0, 0, 1280, 120);
  times.slice(-400).forEach((time, i) => {
    context.fillStyle = time <= 16 ? '#5b4a8a' : '#b8791a';
    const height = Math.min(118, time * 3);
    context.fillRect(10 + i * 3, 120 - height, 2, height);
  });
  context.fillStyle = '#a63a2b';
  context.fillRect(0, 120 - 48, 1280, 1);
  const sorted = times.toSorted((a, b) => a - b);
  const median = sorted[Math.floor(sorted.length / 2)] ?? 0;
  const words = document.getElementById('words');
  if (words !== null) {
    words.textContent =
      `${times.length} frames; median ${median.toFixed(1)} ms, slowest ` +
      `${(sorted.at(-1) ?? 0).toFixed(0)} ms; the line is at 16 ms.`;
  }
}

window.ready = (async () => {
  const document_: unknown = await (
    await fetch(new URL('../../demo/vanesk.geojson', import.meta.url))
  ).json();
  const container = document.getElementById('map');
  if (container === null) throw new Error('there is no place for the map');
  sheet = new MapSheet({
    container,
    ground: groundFrom(document_),
    centre: MIDDLE,
    zoom: 15,
    credit: 'Vanesk',
  });
  trail = longWalk(1_000_000);
  Object.assign(window, { sheet });
  sheet.showTrails([trail]);
  sheet.showFences(fenceIndex(5000));
})();
if (new URLSearchParams(location.search).has('show')) {
  void window.ready.then(() => window.pan(15, 400));
}

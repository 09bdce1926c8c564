/* The first picture of the island, and eight hours of following on it in a minute. */
import { Receiver, tracksFrom } from 'aurelian-drift';
import { MapSheet, groundFrom } from 'aurelian-drift/map';
import { SimulatedDevice, VirtualClock } from 'aurelian-drift/testing';

declare global {
  interface Window {
    /** Milliseconds from having the island's file to its picture. */
    first: Promise<number>;
    /** Advances the clock by this many hours of walking, with one drawing a minute of clock time. */
    follow(hours: number): Promise<void>;
  }
}

const load = async (name: string): Promise<unknown> =>
  (await fetch(new URL(`../../demo/${name}.geojson`, import.meta.url))).json();
const clock = new VirtualClock();
let sheet: MapSheet;

window.first = (async () => {
  const island = await load('vanesk');
  const container = document.getElementById('map');
  if (container === null) throw new Error('there is no place for the map');
  const started = performance.now();
  sheet = new MapSheet({
    container,
    ground: groundFrom(island),
    credit: 'Vanesk',
    now: () => clock.now(),
    warn: () => {},
  });
  container.shadowRoot?.querySelector('canvas')?.getContext('2d')?.getImageData(0, 0, 1, 1);
  return performance.now() - started;
})();

let begun = false;
window.follow = async (hours) => {
  if (!begun) {
    begun = true;
    const { lines } = tracksFrom(await load('rounds'));
    const route = lines[0];
    if (route === undefined) throw new Error('there is no round');
    const source = new SimulatedDevice({ route, clock, permission: 'granted', afterwards: 'again' });
    const follow = new Receiver({ source, clock, purpose: 'Measure.' }).follow();
    follow.onFix((fix) => sheet.showFix(fix));
  }
  for (let minute = 0; minute < hours * 60; minute++) {
    await clock.advance(60);
    await new Promise((resolve) => requestAnimationFrame(resolve));
  }
};

import { expect } from 'chai';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pixelmatch from 'pixelmatch';
import { PNG } from 'pngjs';
import { PARTY, standIn, type RunningBroker } from '../support/brokers.js';
import { CHROMIUM_ENGINE, FIREFOX, webkit, type Engine, type EnginePage } from '../support/engines.js';
import { eventually } from '../support/eventually.js';
import { pages } from '../support/pages.js';
import { screen } from '../support/xvfb.js';

/** A page with the library, an element and a place for a map. */
const PAGE = `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Engine</title>
  <link rel="icon" href="data:," />
  <style>body { margin: 0 } #map, aurelian-map { width: 640px; height: 300px }</style></head>
  <body><div id="map"></div><aurelian-map zoom="15" centre="44.2,-33.6" ground="grid" label="Element"></aurelian-map>
  <aurelian-find></aurelian-find><aurelian-consent></aurelian-consent><script type="module">
    import * as drift from 'aurelian-drift'; import * as map from 'aurelian-drift/map';
    import * as stores from 'aurelian-drift/stores'; import * as presence from 'aurelian-drift/presence';
    import * as testing from 'aurelian-drift/testing'; import 'aurelian-drift/elements';
    import '@fontsource/source-sans-3/400.css'; import '@fontsource/source-sans-3/600.css';
    Object.assign(window, { drift, map, stores, presence, testing, at: { lat: 44.2, lon: -33.6 } });
  </script></body></html>`;

const PLACE = { latitude: 44.20313, longitude: -33.58124 };
/**
 * Share of the pixels of a map that may differ between two engines: they smooth edges and letters in their own ways.
 */
const DIFFERENCE = 0.005;
/** A map with a trail, a fence, a pin and the own place, at rest. */
const DRAW = `
  const container = document.getElementById('map');
  window.sheet = new map.MapSheet({ container, centre: at, zoom: 15, now: () => 1.7e12 });
  sheet.layers.put('grid', { kind: 'grid' });
  const walk = Array.from({ length: 200 }, (_, i) => ({ time: 1.7e12 + i * 1000, ...drift.ahead(at, i * 2, 20 + i) }));
  sheet.showTrails([drift.Trail.from(walk)]);
  sheet.showFences([{ kind: 'circle', id: 'f', name: 'Ox-eye', centre: drift.ahead(at, 90, 300), radius: 120 }]);
  sheet.pins.add({ id: 'p', ...drift.ahead(at, 200, 150), text: 'Hut', open: true });
  sheet.showFix(drift.fixFrom({ ...at, time: 1.7e12, accuracy: 30, course: 40 }));
  window.events = [];
  sheet.onEvent((event) => events.push(event));
  await document.fonts.ready;
  const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
  do await frame(); while (sheet.work.pending);
  await frame();`;

describe('three engines', function () {
  this.timeout(240_000);
  const served = pages({ engine: PAGE });
  const xvfb = screen();
  const engines: readonly Engine[] = [CHROMIUM_ENGINE, FIREFOX, webkit(() => xvfb.display)];
  const pictures = new Map<string, PNG>();
  let broker: RunningBroker;
  before(async () => (broker = await standIn()));
  after(() => broker.close());

  for (const engine of engines)
    describe(engine.name, () => {
      let page: EnginePage;
      let profile = '';
      const opened = async (options: object = {}) => {
        page = await engine.start({ profile, ...options });
        await page.open(`${served.address}engine.html`);
        await eventually(async () => expect(await page.run(`return 'at' in window`)).to.equal(true));
      };
      before(async () => {
        profile = await mkdtemp(join(tmpdir(), 'drift-engine-'));
        await opened(engine.places ? { place: PLACE } : {});
      });
      after(async () => {
        await page.kill();
        await rm(profile, { recursive: true, force: true, maxRetries: 5 });
      });

      if (engine.places)
        it('gives one fix, and follows, by its own positioning interface', async () => {
          const fix = await page.run<{ lat: number; lon: number; origin: string }>(
            `return drift.oneFix({ patience: 20 });`,
          );
          expect(fix.lat).to.be.closeTo(PLACE.latitude, 1e-6);
          expect(fix.lon).to.be.closeTo(PLACE.longitude, 1e-6);
          const followed = await page.run<number>(`
            const receiver = new drift.Receiver({ source: drift.browserSource(), purpose: 'Test.' });
            const follow = receiver.follow();
            const fix = await new Promise((resolve) => follow.onFix(resolve));
            follow.stop();
            return fix.lat;`);
          expect(followed).to.be.closeTo(PLACE.latitude, 1e-6);
        });

      it('follows the pretend device, ends, and has its failures as kinds', async () => {
        const seen = await page.run<{ fixes: number; kind: string; watches: number }>(`
          const clock = new testing.VirtualClock();
          const source = new testing.SimulatedDevice({ clock, at, permission: 'granted', warmUp: 0 });
          const receiver = new drift.Receiver({ source, purpose: 'Test.', clock });
          let fixes = 0;
          const follow = receiver.follow();
          follow.onFix(() => fixes++);
          await clock.advance(30);
          follow.stop();
          const refusing = new testing.SimulatedDevice({ clock, at, answer: 'refuse' });
          const refused = new drift.Receiver({ source: refusing, purpose: 'Test.', clock });
          const failed = refused.fix().catch((error) => error.kind);
          return { fixes, kind: await clock.settle(failed), watches: source.watches };`);
        expect(seen).to.deep.include({ kind: 'refused', watches: 0 });
        expect(seen.fixes).to.be.within(25, 35);
      });

      it('draws the map, which is panned and tapped', async () => {
        await page.run(DRAW);
        const picture = await page.run<string>(
          `return document.getElementById('map').shadowRoot.querySelector('canvas').toDataURL()`,
        );
        pictures.set(engine.name, PNG.sync.read(Buffer.from(picture.split(',')[1]!, 'base64')));
        await page.press(200, 100);
        await eventually(async () =>
          expect(await page.run(`return events.filter(({ kind }) => kind === 'tap').length`)).to.equal(1),
        );
        const [tap] = await page.run<{ at: { lat: number; lon: number } }[]>(
          `return events.filter(({ kind }) => kind === 'tap')`,
        );
        const expected = await page.run<{ lat: number; lon: number }>(`return sheet.positionAt(200, 100)`);
        expect(tap!.at.lat).to.be.closeTo(expected.lat, 2e-5);
        expect(tap!.at.lon).to.be.closeTo(expected.lon, 2e-5);
        await page.drag([300, 120], [200, 90]);
        await eventually(async () => {
          const pixel = await page.run<{ x: number; y: number }>(
            `return sheet.pixelOf(${JSON.stringify(expected)})`,
          );
          expect(pixel.x).to.be.below(140); // 100 pixels or more: it glides on
          expect(pixel.y).to.be.below(85);
        });
        expect(await page.run(`return sheet.$following.get()`)).to.equal(false);
      });

      it('has the elements: a map by its attributes, the field to find a place in, the card of the purpose', async () => {
        const seen = await page.run<object>(`
          const element = document.querySelector('aurelian-map');
          element.setAttribute('zoom', '16.5');
          const find = document.querySelector('aurelian-find');
          const input = find.shadowRoot.querySelector('input');
          const chosen = new Promise((resolve) => find.addEventListener('choose', ({ detail }) => resolve(detail.at)));
          input.value = '44.5, -33.5';
          input.dispatchEvent(new InputEvent('input'));
          input.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter' }));
          const at = await chosen;
          const card = document.querySelector('aurelian-consent');
          const answer = card.explain('To test it.');
          await card.updateComplete;
          card.shadowRoot.querySelectorAll('button')[0].click();
          return {
            zoom: element.sheet.$view.get().zoom,
            height: Math.round(element.shadowRoot.querySelector('.stage').clientHeight),
            at,
            answer: await answer,
          };`);
        expect(seen).to.deep.include({ zoom: 16.5, at: { lat: 44.5, lon: -33.5 }, answer: 'go-on' });
        expect((seen as { height: number }).height).to.be.within(200, 300);
      });

      it('shares the presence over WebSocket, and is seen until it leaves', async () => {
        const states = await page.run<string[]>(`
          const address = ${JSON.stringify(broker.webSocket)};
          const party = ${JSON.stringify(PARTY)};
          const broker = (id) => presence.mqttBroker(address, { username: id, password: id + '-1234' });
          const watch = new presence.PartyWatch({ party, broker: broker('hut'), every: 0.05 });
          const state = (wanted) => new Promise((resolve) => {
            const look = (members) =>
              members.some((each) => each.id === 'ines' && each.state === wanted) && resolve(wanted);
            watch.$members.subscribe(look);
          });
          const source = new testing.SimulatedDevice({ at, permission: 'granted', warmUp: 0 });
          const follow = new drift.Receiver({ source, purpose: 'Test.' }).follow();
          const recipients = ['the hut'];
          const own = new presence.Presence({ party, member: 'ines', broker: broker('ines'), recipients });
          await own.join(follow);
          const states = [await state('moved')];
          await own.leave();
          states.push(await state('left'));
          follow.stop();
          watch.close();
          return states;`);
        expect(states).to.deep.equal(['moved', 'left']);
      });

      it('stores a trail, which is there when the engine was killed, or the page loaded again', async () => {
        const kept = await page.run<number>(`
          const store = stores.browserStore({ name: 'engine', durable: true });
          const recorder = new drift.Recorder({ store });
          recorder.start();
          for (let i = 0; i < 500; i++)
            recorder.take(drift.fixFrom({ time: 1.7e12 + i * 1000, ...drift.ahead(at, 90, i) }));
          await recorder.finish();
          return recorder.trail.length;`);
        expect(kept).to.equal(500);
        if (engine.keeps) {
          await page.kill();
          await opened();
        } else {
          await page.open(`${served.address}engine.html`);
          await eventually(async () => expect(await page.run(`return 'at' in window`)).to.equal(true));
        }
        const found = await page.run<number[]>(`
          const store = stores.browserStore({ name: 'engine' });
          const list = await store.list();
          return Promise.all(list.map(async ({ id }) => (await store.read(id)).length));`);
        expect(found).to.deep.equal([500]);
      });

      if (engine.places)
        it('reports a refusal as a failure of a kind', async () => {
          // It was started again without a place: then it refuses.
          const kind = await page.run<string>(
            `return drift.oneFix({ patience: 8 }).then(() => 'a fix', (error) => error.kind);`,
          );
          expect(kind).to.be.oneOf(['refused', 'barred']);
        });
      else
        it('waits while the user is asked, as long as it takes, and ends when it is cancelled', async () => {
          const name = await page.run<string>(`
            const stop = new AbortController();
            const ended = drift.oneFix({ signal: stop.signal }).catch((error) => error.name);
            const first = await Promise.race([ended, new Promise((done) => setTimeout(done, 1000, 'waits'))]);
            stop.abort();
            return first + ' ' + (await ended);`);
          expect(name).to.equal('waits AbortError');
        });
    });

  describe('beside each other', () => {
    it('draw the same map, within a small difference', () => {
      const [first, ...others] = [...pictures];
      for (const [name, picture] of others) {
        const [a, b] = [first![1], picture];
        const different = pixelmatch(a.data, b.data, undefined, a.width, a.height, { threshold: 0.25 });
        expect(different / (a.width * a.height), `${first![0]} and ${name}`).to.be.below(DIFFERENCE);
      }
    });
  });
});

import type * as Stores from 'aurelian-drift/stores';
import { expect } from 'chai';
import type { MapWindow } from '../support/map-page.js';
import { pages } from '../support/pages.js';

/** A page that counts the listeners of every event target. */
const BENCH = `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Bench</title>
  <link rel="icon" href="data:," /></head>
  <body><div id="map" style="width: 320px; height: 240px"></div><script>
    const count = (window.count = { listeners: 0, observed: 0, timers: 0, frames: 0 });
    const of = new Map();
    const { addEventListener, removeEventListener } = EventTarget.prototype;
    const key = (target, type, listener) => {
      const each = of.get(target) ?? new Set();
      of.set(target, each);
      return [each, type, listener];
    };
    // Only what outlives the objects of the library: the page, its window, and its media queries.
    const lasting = (target) => target === window || target === document || target === document.fonts
      || target instanceof MediaQueryList || target.id === 'map';
    EventTarget.prototype.addEventListener = function (type, listener, ...more) {
      if (lasting(this ?? window) && !(more[0]?.once ?? false)) count.listeners++;
      return addEventListener.call(this, type, listener, ...more);
    };
    EventTarget.prototype.removeEventListener = function (type, listener, ...more) {
      if (lasting(this ?? window)) count.listeners--;
      return removeEventListener.call(this, type, listener, ...more);
    };
    const Observer = window.ResizeObserver;
    window.ResizeObserver = class extends Observer {
      own = 0;
      observe(...args) { count.observed++; this.own++; super.observe(...args); }
      disconnect() { count.observed -= this.own; this.own = 0; super.disconnect(); }
    };
  </script><script type="module">
    import * as drift from 'aurelian-drift'; import * as map from 'aurelian-drift/map';
    import * as stores from 'aurelian-drift/stores';
    import * as testing from 'aurelian-drift/testing';
    Object.assign(window, { drift, map, stores, testing });
  </script></body></html>`;

declare const window: MapWindow & { stores: typeof Stores; count: Record<string, number> };

describe('the end of every part of a page', function () {
  this.timeout(240_000);
  const { open } = pages({ endings: BENCH });
  const bench = async () => {
    const opened = await open('endings.html');
    await opened.page.waitForFunction(() => 'drift' in window);
    return opened;
  };

  it(
    'leaves nothing of a map and a receiver over the browser behind, a thousand times, however far ' +
      'they were',
    async () => {
      const { page, complaints } = await bench();
      const left = await page.evaluate(async () => {
        const container = document.getElementById('map')!;
        const before = { ...window.count };
        for (let cycle = 0; cycle < 1000; cycle++) {
          const given = new AbortController();
          const receiver = new window.drift.Receiver({
            source: window.drift.browserSource(),
            purpose: 'Test.',
            signal: given.signal,
            warn() {},
          });
          const map = new window.map.MapSheet({ container, receiver, signal: given.signal, warn() {} });
          map.layers.put('grid', { kind: 'grid' });
          if (cycle % 3 === 0) map.toOwnPlace();
          if (cycle % 5 === 0) map.pins.add({ lat: 44.2, lon: -33.6 });
          if (cycle % 7 === 0) await new Promise(requestAnimationFrame);
          if (cycle % 2 === 0) given.abort();
          else map.close();
          map.close();
          receiver.close();
        }
        await new Promise((resolve) => setTimeout(resolve, 100));
        return { before, after: { ...window.count }, children: container.childNodes.length };
      });
      expect(left.after).to.deep.equal(left.before);
      expect(left.children).to.be.at.most(1);
      expect(complaints).to.deep.equal([]);
    },
  );

  it('leaves nothing of a store open, a thousand times: its database can be deleted at once', async () => {
    const { page } = await bench();
    const outcome = await page.evaluate(async () => {
      for (let cycle = 0; cycle < 1000; cycle++) {
        const given = new AbortController();
        const store = window.stores.browserStore({ signal: given.signal });
        const writer = cycle % 2 === 0 ? await store.begin({}) : undefined;
        const late = cycle % 3 === 0 ? store.list().catch(() => {}) : undefined;
        if (cycle % 5 === 0) given.abort();
        await store.close();
        await late;
        const refused = await (writer?.breakSegment() ?? store.list()).catch(
          (error: unknown) => (error as Error).name,
        );
        if (refused !== (cycle % 5 === 0 ? 'AbortError' : 'ClosedError'))
          return `cycle ${cycle}: ${JSON.stringify(refused)}`;
      }
      const held = (await navigator.locks.query()).held?.length;
      const deleted = await new Promise((resolve) => {
        const request = indexedDB.deleteDatabase('aurelian-drift');
        request.onsuccess = () => resolve('deleted');
        request.onblocked = () => resolve('blocked');
      });
      return [held, deleted];
    });
    expect(outcome).to.deep.equal([0, 'deleted']);
  });
});

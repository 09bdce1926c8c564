import type * as Drift from 'aurelian-drift';
import type * as Testing from 'aurelian-drift/testing';
import { expect } from 'chai';
import { eventually } from '../support/eventually.js';
import { pages } from '../support/pages.js';

declare const window: Window & {
  drift: typeof Drift;
  testing: typeof Testing;
  taken: Drift.BridgePort[];
  warned: string[];
  source: Drift.BridgeSource;
};

const APP = `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>App</title><link rel="icon" href="data:," />
  </head><body><main id="frames"></main><script type="module">
  import * as drift from 'aurelian-drift';
  import * as testing from 'aurelian-drift/testing';
  Object.assign(window, { drift, testing, taken: [], warned: [] });
  drift.onShellPort((port) => window.taken.push(port), { warn: (text) => window.warned.push(text) });
  </script></body></html>`;
/** A page that poses as the shell to the page around it, and to the one that opened it. */
const STRANGER = `<!doctype html><html lang="en"><head><title>Stranger</title></head><body><script>
  // Again and again: a browser may lose a port that is sent while its processes start.
  setInterval(() => {
    for (const target of [parent, opener])
      if (target && target !== window) target.postMessage('aurelian-drift', '*', [new MessageChannel().port1]);
  }, 50);
  </script></body></html>`;

describe('a shell hands its port over', function () {
  this.timeout(240_000);
  const { open } = pages({ app: APP, stranger: STRANGER });

  it('and no frame, other origin or opened page can pose as it', async () => {
    const { page, context, complaints } = await open('app.html');
    const stranger = new URL('stranger.html', page.url());
    const elsewhere = stranger.href.replace('127.0.0.1', 'localhost');
    await page.evaluate(
      ([own, other, text]) => {
        const frame = (attributes: Record<string, string>) => {
          const made = document.createElement('iframe');
          for (const [name, value] of Object.entries(attributes)) made.setAttribute(name, value);
          document.getElementById('frames')!.append(made);
        };
        frame({ src: own! });
        frame({ src: other! });
        frame({ srcdoc: text!, sandbox: 'allow-scripts' });
      },
      [stranger.href, elsewhere, STRANGER],
    );
    const own = `${new URL(page.url()).origin} posed as the shell`;
    const posed = (text: string) =>
      eventually(async () => expect((await page.evaluate(() => window.warned)).join()).to.include(text));
    await posed(own);
    await posed(`${new URL(elsewhere).origin} posed as the shell`);
    await posed('a frame of no origin posed as the shell');
    await page.evaluate(() => {
      document.getElementById('frames')!.replaceChildren();
      window.warned.length = 0;
    });
    const [opened] = await Promise.all([
      page.waitForEvent('popup'),
      page.evaluate((address) => void window.open(address), stranger.href),
    ]);
    await opened.waitForLoadState();
    await posed(own);
    expect(await page.evaluate(() => window.taken.length)).to.equal(0);
    expect(complaints).to.deep.equal([]);
    await context.close();
  });

  it('as texts or structured, and the page follows over it; in a frame it takes none', async () => {
    const { page, context } = await open('app.html');
    const heard = await page.evaluate(async () => {
      const { drift, testing } = window;
      const device = new testing.SimulatedDevice({
        at: { lat: 44.2, lon: -33.6 },
        permission: 'granted',
        warmUp: 0,
      });
      const lats: number[] = [];
      for (const wrap of [(port: Drift.BridgePort) => port, drift.textPort]) {
        const { port1, port2 } = new MessageChannel();
        const shell = testing.simulatedShell(wrap(port2), device, { origins: [location.origin] });
        // An event of the app around the page has no source.
        dispatchEvent(new MessageEvent('message', { data: 'aurelian-drift', ports: [port1] }));
        const source = drift.bridgeSource(wrap(window.taken.at(-1)!));
        const receiver = new drift.Receiver({ source, purpose: 'Test.' });
        lats.push((await receiver.fix()).lat);
        // The far end closes its port, and hands over another one: the follow goes on over it.
        const again = new MessageChannel();
        let next: Testing.SimulatedShell | undefined;
        await new Promise<void>((resolve) => {
          const follow = receiver.follow({ silentAfter: 1 });
          follow.onFix(() => (next === undefined ? port2.close() : resolve()));
          follow.onEvent(({ kind }) => {
            if (kind !== 'silent') return;
            next = testing.simulatedShell(wrap(again.port2), device);
            dispatchEvent(new MessageEvent('message', { data: 'aurelian-drift', ports: [again.port1] }));
            source.use(wrap(window.taken.at(-1)!));
          });
        });
        next?.close();
        shell.close();
        receiver.close();
        source.close();
      }
      return { lats, watches: device.watches };
    });
    expect(heard.lats.map((lat) => lat.toFixed(2))).to.deep.equal(['44.20', '44.20']);
    expect(heard.watches).to.equal(0);
    const inFrame = await page.evaluate(async (address) => {
      const frame = document.createElement('iframe');
      frame.src = address;
      document.body.append(frame);
      await new Promise((resolve) => (frame.onload = resolve));
      const inside = frame.contentWindow as unknown as typeof window;
      while (!('taken' in inside)) await new Promise(requestAnimationFrame);
      const { port1 } = new MessageChannel();
      inside.dispatchEvent(new MessageEvent('message', { data: 'aurelian-drift', ports: [port1] }));
      return [inside.taken.length, inside.warned.length];
    }, page.url());
    expect(inFrame).to.deep.equal([0, 1]);
    await context.close();
  });
});

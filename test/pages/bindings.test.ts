import type { Receiver } from 'aurelian-drift';
import type { SimulatedDevice, VirtualClock } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { eventually } from '../support/eventually.js';
import { pages } from '../support/pages.js';

/** The same live value bound by three frameworks, each with its usual means for such values, and by plain code. */
const BENCH = `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Bench</title>
  <link rel="icon" href="data:," /></head>
  <body><p id="react"></p><p id="vue"></p><p id="svelte"></p><p id="plain"></p>
  <script type="module" src="../../test/support/bindings.ts"></script></body></html>`;

declare const window: Window & {
  clock: VirtualClock;
  device: SimulatedDevice;
  receiver: Receiver;
  leave: () => void;
};

describe('a live value', function () {
  this.timeout(240_000);
  const { open } = pages({ bindings: BENCH });

  it(
    'binds to React, Vue, Svelte’s stores and plain code as it is, beside a listener that throws, ' +
      'and is let go with them',
    async () => {
      const { page, complaints } = await open('bindings.html');
      await page.waitForFunction(() => 'leave' in window);
      const shown = () => page.locator('p').allTextContents();
      await eventually(async () => expect(await shown()).to.deep.equal(Array(4).fill('nowhere')));
      const reported = await page.evaluate(async () => {
        const follow = window.receiver.follow();
        await window.clock.advance(3);
        window.device.moveTo({ lat: 44.25, lon: -33.6 });
        await window.clock.advance(20);
        follow.stop();
        return window.receiver.$fix.get()?.lat.toFixed(6);
      });
      expect(reported).to.match(/^44\.25/);
      await eventually(async () => expect(await shown()).to.deep.equal(Array(4).fill(reported)));
      await page.evaluate(async () => {
        window.leave();
        window.receiver.placeByHand({ lat: 44.3, lon: -33.6 });
        await new Promise(requestAnimationFrame);
      });
      expect(await shown()).to.deep.equal(['', '', reported, reported]);
      expect(complaints).to.deep.equal([]);
    },
  );
});

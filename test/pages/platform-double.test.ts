import { expect } from 'chai';
import { pages } from '../support/pages.js';

/**
 * An app that does not use this library, and a test of it that replaces the platform's geolocation with a pretend
 * device.
 */
const APP = `<!doctype html><html lang="en"><head><title>App</title><link rel="icon" href="data:," /></head><body>
  <button onclick="navigator.geolocation.getCurrentPosition(show,
    (error) => (out.textContent = 'code ' + error.code), { timeout: 5000 })">Where?</button>
  <button onclick="window.watched = navigator.geolocation.watchPosition(show)">Follow</button>
  <button onclick="navigator.geolocation.clearWatch(watched)">Stop</button>
  <output id="out"></output>
  <script>const show = ({ coords }) =>
    (out.textContent = coords.latitude.toFixed(5) + ' ' + coords.longitude.toFixed(5));</script>
  <script type="module">
    import { Receiver, ahead, browserSource } from 'aurelian-drift';
    import { SimulatedDevice, VirtualClock, installInPlatform } from 'aurelian-drift/testing';
    const at = { lat: 44.2, lon: -33.6 };
    const clock = new VirtualClock();
    const device = new SimulatedDevice({ route: { parts: [[at, ahead(at, 90, 3000)]] }, reception: 'exact', clock });
    const remove = installInPlatform(device, { clock });
    const receiver = new Receiver({ source: browserSource(), clock, purpose: 'Test.' });
    Object.assign(window, { device, clock, remove, receiver });
  </script></body></html>`;

describe('an app under test that uses the platform’s own interfaces', function () {
  this.timeout(240_000);
  const { open } = pages({ app: APP });

  it('is prompted, walked, refused and released by a script, in no time', async () => {
    const { page, context, complaints } = await open('app.html');
    const run = (text: string): Promise<unknown> => page.evaluate(`(async () => { ${text} })()`);
    await run('device.answer = "refuse"');
    await page.getByText('Where?').click();
    await run('await clock.advance(1)');
    expect(await page.locator('#out').textContent()).to.equal('code 1');
    await run('device.answer = "grant"');
    await page.getByText('Follow').click();
    await run('await clock.advance(1800)'); // half an hour
    // 1800 s at 1.35 m/s are 2.4 km: 0.030° of longitude, within the variation of a walk.
    const [lat, lon] = (await page.locator('#out').textContent())!.split(' ').map(Number);
    expect(lat).to.be.closeTo(44.2, 1e-3);
    expect(lon).to.be.closeTo(-33.5696, 0.003);
    expect(await run('return [device.prompts, device.watches]')).to.deep.equal([2, 1]);
    await page.getByText('Stop').click();
    expect(await run('return device.watches')).to.equal(0);
    // This library's own browser source uses the same platform.
    expect(await run('return (await clock.settle(receiver.fix())).lat')).to.be.closeTo(44.2, 1e-3);
    await run('remove()');
    expect(await run('return navigator.geolocation instanceof Geolocation')).to.equal(true);
    expect(complaints).to.deep.equal([]);
    await context.close();
  });
});

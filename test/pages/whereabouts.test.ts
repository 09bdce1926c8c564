import { expect } from 'chai';
import { TOLVAY, mapSays, pages } from '../support/pages.js';

const allowed = { permissions: ['geolocation'], geolocation: TOLVAY };

describe('the page whereabouts', function () {
  this.timeout(240_000);
  const { open } = pages();

  it('asks nothing until its button is pressed, and shows dashes and no map', async () => {
    const { page, context } = await open('whereabouts/', allowed);
    expect(await page.locator('#position').textContent()).to.equal('–');
    expect(await page.locator('#map').isVisible()).to.equal(false);
    expect(await page.getByRole('button', { name: 'Where am I?' }).isVisible()).to.equal(true);
    await context.close();
  });

  it('shows the position from Chromium, its accuracy and its growing age, and the map', async () => {
    const { page, context, complaints } = await open('whereabouts/', allowed);
    await page.getByRole('button', { name: 'Where am I?' }).click();
    await page.locator('#position', { hasText: '44.20313° N, 33.58124° W' }).waitFor();
    expect(await page.locator('#accuracy').textContent()).to.equal('±18 m');
    await page.locator('#age', { hasText: /^[1-9] s ago$/ }).waitFor();
    await page.locator('#map canvas').first().waitFor();
    await mapSays(page, 'own place 44.20313° N, 33.58124° W ±18 m');
    expect(complaints).to.deep.equal([]);
    await context.close();
  });

  it('takes a genuine 0, 0 for the place it is, on a grid', async () => {
    const { page, context } = await open('whereabouts/', {
      ...allowed,
      geolocation: { latitude: 0, longitude: 0, accuracy: 5 },
    });
    await page.click('#find');
    await page.locator('#position', { hasText: '0.00000° N, 0.00000° E' }).waitFor();
    await page.locator('#map canvas').first().waitFor();
    await context.close();
  });

  it(
    'explains a refusal with its remedy, keeps the map hidden, and succeeds when asked again after ' +
      'the permission came',
    async () => {
      const { page, context } = await open('whereabouts/'); // headless Chromium answers a prompt with a refusal
      await page.click('#find');
      await page.getByRole('button', { name: 'Continue' }).click();
      await page.getByText('This page is not allowed to know your position.').waitFor();
      expect(await page.getByRole('alert').textContent()).to.match(/site settings beside the address/);
      expect(await page.locator('#map').isVisible()).to.equal(false);
      expect(await page.locator('#position').textContent()).to.equal('–');
      await context.grantPermissions(['geolocation']);
      await context.setGeolocation(TOLVAY);
      await page.click('#find');
      await page.locator('#position', { hasText: '44.20313° N, 33.58124° W' }).waitFor();
      expect(await page.getByRole('alert').count()).to.equal(0);
      await context.close();
    },
  );

  it('reports when no answer comes in time, and that it is not a refusal', async () => {
    // Granted, but without a position: Chromium's emulation reports none.
    const { page, context } = await open('whereabouts/', { permissions: ['geolocation'] });
    await page.clock.install();
    await page.click('#find');
    await page.getByText('Looking…').waitFor();
    await page.clock.runFor(21_000);
    await page
      .getByRole('alert')
      .filter({ hasText: /did not find its position in time|cannot find its position right now/ })
      .waitFor();
    await context.close();
  });

  it('offers a pretend device when there is no receiver, clearly marked', async () => {
    const { page, context } = await open('whereabouts/');
    await page.click('#find');
    await page.getByRole('button', { name: 'Not now' }).click();
    await page.getByText('Nothing was asked of your device.').waitFor();
    await page.getByRole('button', { name: 'Try it with a pretend device' }).click();
    await page.getByText('Pretend device that').waitFor();
    await page.getByRole('button', { name: 'Continue' }).click();
    await page.locator('#position', { hasText: '44.20' }).waitFor();
    await context.close();
  });

  it('reports at once that a browser without positioning has none', async () => {
    const { page, context } = await open('about:blank');
    await page.addInitScript(() =>
      Object.defineProperty(Navigator.prototype, 'geolocation', { value: undefined }),
    );
    await page.goto(new URL('whereabouts/', (await open('')).page.url()).href);
    await page.click('#find');
    await page.getByText('This device cannot find its position.').waitFor();
    await context.close();
  });
});

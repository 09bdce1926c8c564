import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { faultsOf } from '../support/axe.js';
import { pages } from '../support/pages.js';

/** A card over a pretend device that the address describes, and the outcome of a fix. */
const CARD = `<!doctype html><html lang="LANG"><head><title>Card</title><link rel="icon" href="data:," /></head>
  <body><main><h1>Card</h1>
  <aurelian-consent></aurelian-consent> <button id="ask">Ask</button> <output></output>
  <script type="module">
    import { Receiver } from 'aurelian-drift';
    import 'aurelian-drift/elements';
    import { SimulatedDevice } from 'aurelian-drift/testing';
    const options = JSON.parse(new URLSearchParams(location.search).get('device') ?? '{}');
    const device = new SimulatedDevice({ at: { lat: 44.2, lon: -33.6 }, warmUp: 0, ...options,
      inSettings: (it) => it.grant() });
    const card = document.querySelector('aurelian-consent');
    const more = new URLSearchParams(location.search).get('more');
    if (more !== null) card.more = more;
    const receiver = new Receiver({ source: device, purpose: 'To show <b>you</b> on the round.',
      explain: card.explain });
    card.receiver = receiver;
    document.getElementById('ask').onclick = async () => {
      const outcome = await receiver.fix().then(() => 'fix', (error) => error.kind);
      document.querySelector('output').textContent = outcome + ', ' + device.prompts + ' prompts';
    };
    Object.assign(window, { device, receiver });
  </script></main></body></html>`;

describe('the consent card', function () {
  this.timeout(240_000);
  const { open } = pages({
    card: CARD.replace('LANG', 'en'),
    karte: CARD.replace('LANG', 'de-AT'),
    other: CARD.replace('LANG', 'xx'),
  });
  const shown = async (page: Page, text: string | RegExp) => page.getByText(text).first().waitFor();
  const device = (options: object) => `?device=${encodeURIComponent(JSON.stringify(options))}`;

  it('explains the reason before the system asks; “Continue” leads to the one prompt', async () => {
    const { page, context } = await open('card.html');
    await page.click('#ask');
    await shown(page, 'To show <b>you</b> on the round.'); // markup in a purpose is text
    expect(await page.getByRole('dialog', { name: 'Your position' }).isVisible()).to.equal(true);
    await page.getByRole('button', { name: 'Continue' }).click();
    await shown(page, 'fix, 1 prompts');
    expect(await page.getByRole('dialog').count()).to.equal(0);
    await context.close();
  });

  it(
    '“Not now”, or Escape, leaves the prompt unused and is reported in a neutral tone; ' +
      'asking again shows it again',
    async () => {
      const { page, context } = await open('card.html');
      await page.click('#ask');
      await page.getByRole('button', { name: 'Not now' }).click();
      await shown(page, 'declined, 0 prompts');
      expect(await page.locator('aurelian-consent [role=status]').textContent()).to.include(
        'Nothing was asked of your device.',
      );
      await page.click('#ask');
      await page.getByRole('dialog').waitFor();
      await page.keyboard.press('Escape'); // the card has the focus
      await shown(page, 'declined, 0 prompts');
      await page.click('#ask');
      await page.getByRole('button', { name: 'Continue' }).click();
      await shown(page, 'fix, 1 prompts');
      await context.close();
    },
  );

  it('is not shown when the permission is there already', async () => {
    const { page, context } = await open(`card.html${device({ permission: 'granted' })}`);
    await page.click('#ask');
    await shown(page, 'fix, 0 prompts');
    await context.close();
  });

  it('turns into the remedy after a refusal, with a button where the platform lets the app act', async () => {
    const { page, context } = await open(`card.html${device({ answer: 'bar' })}`);
    await page.click('#ask');
    await page.getByRole('button', { name: 'Continue' }).click();
    await shown(page, 'barred, 1 prompts');
    expect(await page.getByRole('alert').textContent()).to.include(
      'This page is not allowed to know your position.',
    );
    await page.getByRole('button', { name: 'Open the settings' }).click(); // where the user allows it
    expect(await page.getByRole('alert').count()).to.equal(0);
    await page.click('#ask');
    await shown(page, 'fix, 1 prompts');
    await context.close();
  });

  it('speaks the language of its page, and English where it has no other', async () => {
    const { page, context } = await open(`karte.html${device({ answer: 'refuse' })}`);
    await page.click('#ask');
    await page.getByRole('button', { name: 'Weiter' }).click();
    await shown(page, 'Sie haben dieser Seite Ihren Standort nicht mitgeteilt.');
    await page.getByRole('button', { name: 'Noch einmal fragen' }).click();
    await page.getByRole('button', { name: 'Jetzt nicht' }).waitFor();
    await context.close();
    const other = await open('other.html');
    await other.page.click('#ask');
    await other.page.getByRole('button', { name: 'Not now' }).waitFor();
    await other.context.close();
  });

  it('links to more of a page, and to nothing that could run', async () => {
    for (const [more, links] of [
      ['privacy.html', 1],
      ['javascript:alert(1)', 0],
    ] as const) {
      const { page, context } = await open(`card.html?more=${encodeURIComponent(more)}`);
      await page.click('#ask');
      await page.getByRole('dialog').waitFor();
      expect(await page.getByRole('link', { name: 'More about this' }).count()).to.equal(links);
      await context.close();
    }
  });

  it('taken out of the page answers for the user: not now', async () => {
    const { page, context } = await open('card.html');
    await page.click('#ask');
    await page.getByRole('dialog').waitFor();
    await page.evaluate(() => document.querySelector('aurelian-consent')!.remove());
    await shown(page, 'declined, 0 prompts');
    await context.close();
  });

  it('has no fault that a checker of accessibility finds, in either form', async () => {
    const { page, context } = await open(`card.html${device({ answer: 'refuse' })}`);
    const problems = () => faultsOf(page);
    await page.click('#ask');
    await page.getByRole('dialog').waitFor();
    expect(await problems()).to.deep.equal([]);
    await page.getByRole('button', { name: 'Continue' }).click();
    await page.getByRole('alert').waitFor();
    expect(await problems()).to.deep.equal([]);
    await context.close();
  });
});

describe('every kind of failure', function () {
  this.timeout(240_000);
  const { open } = pages();
  const reported: Readonly<Record<string, string>> = {
    unsupported: 'This device cannot find its position.',
    insecure: 'its connection is not secure',
    forbidden: 'This page cannot ask for your position here.',
    undeclared: 'lacks the declaration that it needs',
    'switched-off': 'Location is turned off on this device.',
    refused: 'You did not allow this page to know your position.',
    barred: 'This page is not allowed to know your position.',
    'approximate-only': 'Only your approximate position is shared with this page.',
    'no-signal': 'The device cannot find its position right now.',
    'timed-out': 'The device did not find its position in time.',
    unknown: 'Something went wrong while finding your position.',
  };

  it('is explained on the page whereabouts with its remedy, by choosing how the pretend device behaves', async () => {
    const { page, context } = await open('whereabouts/');
    await page.clock.install();
    await page.click('#find');
    await page.getByRole('button', { name: 'Not now' }).click();
    await page.getByText('Not now, then.').waitFor(); // declined
    await page.click('#use-pretend');
    await page.getByRole('button', { name: 'Not now' }).click();
    for (const [behaviour, text] of Object.entries(reported)) {
      await page.selectOption('select', behaviour);
      const early = ['unsupported', 'insecure', 'forbidden', 'undeclared', 'switched-off'].includes(
        behaviour,
      );
      if (!early) await page.getByRole('button', { name: 'Continue' }).click();
      await page.clock.runFor(21_000); // patience is twenty seconds
      await page.getByRole('alert').filter({ hasText: text }).waitFor();
      expect(await page.locator('#position').textContent()).to.equal('–');
      expect(await page.locator('#map').isVisible()).to.equal(false);
    }
    await page.selectOption('select', 'well');
    await page.getByRole('button', { name: 'Continue' }).click();
    await page.clock.runFor(3000);
    await page.locator('#position', { hasText: '44.20' }).waitFor();
    expect(await page.getByRole('alert').count()).to.equal(0);
    await context.close();
  });

  it('on the way is explained on the page round, with the trail kept', async () => {
    const { page, context } = await open('round/?tempo=60&pretend=withdrawn');
    await page.click('#start');
    await page.getByRole('button', { name: 'Continue' }).click();
    await page.getByText('The permission to know your position was withdrawn.').waitFor();
    expect(await page.getByRole('button', { name: 'Open the settings' }).isVisible()).to.equal(true);
    expect(await page.locator('#standing').textContent()).to.equal('Following has ended.');
    const fixes = Number(await page.locator('#fixes').textContent());
    expect(fixes).to.be.above(0);
    await page.getByRole('button', { name: 'Finish' }).click();
    await page.getByRole('link', { name: 'Save as GPX' }).waitFor();
    expect(Number(await page.locator('#fixes').textContent())).to.equal(fixes);
    await context.close();
  });

  it('and the state behind it is there for developers, live', async () => {
    const { page, context } = await open('whereabouts/', {
      permissions: ['geolocation'],
      geolocation: { latitude: 44.20313, longitude: -33.58124, accuracy: 18 },
    });
    await page.click('summary');
    const inspector = page.locator('aurelian-inspector');
    await inspector.getByText('unknown').first().waitFor();
    await page.click('#find');
    const last = inspector.getByRole('region', { name: 'Last fix' });
    for (const text of ['44.20313° N, 33.58124° W', '±18 m'])
      await last.getByText(text, { exact: true }).waitFor();
    for (const text of ['granted', '0 open, 1 opened so far'])
      await inspector.getByText(text, { exact: true }).waitFor();
    const row = inspector.getByRole('row').nth(1);
    expect(await row.getByRole('cell').allTextContents()).to.have.ordered.members([
      await row.getByRole('cell').first().textContent(),
      '44.20313° N, 33.58124° W',
      '±18 m',
      '',
      '',
    ]);
    await context.close();
  });
});

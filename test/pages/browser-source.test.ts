import { expect } from 'chai';
import { readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { launchChromium, servePages } from '../../scripts/browser.js';
import { TOLVAY, pages } from '../support/pages.js';
import { screen } from '../support/xvfb.js';

/** The first program as the README prints it, in a page. */
const readme = readFileSync(new URL('../../README.md', import.meta.url), 'utf8');
const FIRST = /```html\n(<button>Where am I[\s\S]*?)```/.exec(readme)?.[1] ?? '';

/** An app that handles no failure. */
const CARELESS = `<!doctype html><html lang="en"><head><title>Careless</title></head><body>
  <button id="once">Once</button> <button id="follow">Follow</button>
  <script type="module">
    import { Receiver, browserSource } from 'aurelian-drift';
    const receiver = new Receiver({ source: browserSource(), purpose: 'None in particular.' });
    document.getElementById('once').onclick = () => { receiver.fix(); };
    document.getElementById('follow').onclick = () => { receiver.follow(); };
  </script></body></html>`;

/** A page that needs one fix and nothing else. */
const LIGHT = `<!doctype html><html lang="en"><head><title>Light</title><link rel="icon" href="data:," /></head>
  <body><button>Where?</button> <output></output>
  <script type="module">
    import { oneFix, positionText } from 'aurelian-drift';
    document.querySelector('button').onclick = async () =>
      (document.querySelector('output').textContent = await oneFix().then(positionText, (error) => error.kind));
  </script></body></html>`;

describe('the browser’s own positioning', function () {
  this.timeout(240_000);
  const served = pages({
    first: `<!doctype html><title>First</title><link rel="icon" href="data:," />${FIRST}`,
    careless: CARELESS,
    light: LIGHT,
  });

  it('works with the shortest program of the README, as printed, in under ten lines', async () => {
    expect(FIRST.trim().split('\n').length).to.be.within(5, 9);
    const { page, context, complaints } = await served.open('first.html', {
      permissions: ['geolocation'],
      geolocation: TOLVAY,
    });
    await page.click('button');
    await page.getByText('44.20313° N, 33.58124° W ±18 m').waitFor();
    expect(complaints).to.deep.equal([]);
    await context.close();
  });

  it('gives a light page one fix, or the kind of its failure', async () => {
    for (const [options, text] of [
      [{ permissions: ['geolocation'], geolocation: TOLVAY }, '44.20313° N, 33.58124° W'],
      [{}, 'barred'],
    ] as const) {
      const { page, context } = await served.open('light.html', options as object);
      await page.click('button');
      await page.locator('output', { hasText: text }).waitFor();
      await context.close();
    }
  });

  for (const way of ['once', 'follow']) {
    it(`reports an unhandled failure on the screen and in the console (${way})`, async () => {
      const { page, context, complaints } = await served.open('careless.html');
      const warnings: string[] = [];
      page.on('console', (message) => warnings.push(message.text()));
      await page.click(`#${way}`);
      await page
        .getByRole('alert')
        .filter({ hasText: 'This page is not allowed to know your position.' })
        .waitFor();
      expect([...complaints, ...warnings].join('\n')).to.include(
        'barred: only the settings can change the denied permission',
      );
      await page.getByRole('button', { name: 'Close' }).click();
      expect(await page.getByRole('alert').count()).to.equal(0);
      await context.close();
    });
  }

  it('reports forbidden in a frame that the policy bars, without a prompt', async () => {
    const framing = createServer((_, response) => {
      response.setHeader('content-type', 'text/html');
      response.end(
        `<!doctype html><title>Framing</title><iframe src="${served.address}careless.html" width="600" ` +
          `height="300"></iframe>`,
      );
    });
    await new Promise<void>((resolve) => framing.listen(0, '127.0.0.1', resolve));
    const { port } = framing.address() as { port: number };
    // Another host name is another origin, and gets the permission only from an allow attribute.
    const { page, context } = await served.open(`http://localhost:${port}/`, {
      permissions: ['geolocation'],
      geolocation: TOLVAY,
    });
    const frame = page.frameLocator('iframe');
    await frame.locator('#once').click();
    await frame.getByText('This page cannot ask for your position here.').waitFor();
    await context.close();
    framing.close();
  });
});

describe('a prompt that is answered late', function () {
  this.timeout(240_000);
  const xvfb = screen();

  it('is waited for, ten minutes if it must be, without charging the patience; then the fix comes', async () => {
    const served = await servePages();
    const browser = await launchChromium({ headless: false, display: xvfb.display });
    try {
      const page = await browser.newPage();
      await page.goto(`${served.address}whereabouts/`);
      await page.clock.install();
      await page.click('#find');
      await page.getByRole('button', { name: 'Continue' }).click();
      await page.getByText('Waiting for your answer…').waitFor();
      await page.clock.runFor(600_000); // ten minutes; the patience is twenty seconds
      expect(await page.getByText('Waiting for your answer…').isVisible()).to.equal(true);
      expect(await page.getByRole('alert').count()).to.equal(0);
      await page.context().setGeolocation(TOLVAY);
      await page.context().grantPermissions(['geolocation']);
      await page.locator('#position', { hasText: '44.20313° N, 33.58124° W' }).waitFor();
    } finally {
      await browser.close();
      await served.close();
    }
  });
});

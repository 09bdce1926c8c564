import { expect } from 'chai';
import { pages } from '../support/pages.js';

/** A page that checks itself as it starts. */
const SELF = `<!doctype html><html lang="en"><head><title>Self</title><link rel="icon" href="data:," /></head><body>
  <iframe title="Tides" src="http://127.0.0.2:9/" allow="geo-location"></iframe>
  <iframe title="Tides" src="http://127.0.0.3:9/"></iframe>
  <script type="module">
    import { Receiver, browserSource, bridgeSource, preflightPage } from 'aurelian-drift';
    import { SimulatedDevice } from 'aurelian-drift/testing';
    const short = (findings) => findings.map(({ rule, problem }) => rule + ': ' + problem);
    const page = new Receiver({ source: browserSource(), purpose: 'We need your location' });
    const app = new Receiver({
      source: new SimulatedDevice({ access: { declaration: 'incomplete', 
        undeclared: ['the while-in-use text', 'the rough permission'] } }),
      purpose: 'Shows you on the map of your round.',
    });
    window.found = Promise.all([preflightPage(page), preflightPage(app)]).then((all) => all.map(short));
  </script></body></html>`;

describe('a running page that looks at itself', function () {
  this.timeout(240_000);
  const { open } = pages({ self: SELF });

  it('lists missing, misspelt and vague entries in one go, without a prompt', async () => {
    const { page, context } = await open('self.html');
    const [own, app] = await page.evaluate<string[][]>('found');
    const frames = [
      'misspelt: the frame allows "geo-location", which does not exist',
      'frame-without-leave: the page of 127.0.0.3 in a frame may not ask for positions',
    ];
    expect(own).to.deep.equal([
      'vague-purpose: the purpose text states no purpose: "We need your location"',
      ...frames,
    ]);
    expect(app).to.deep.equal([
      'missing: the app does not declare the while-in-use text',
      'missing: the app does not declare the rough permission',
      ...frames,
    ]);
    await context.close();
  });
});

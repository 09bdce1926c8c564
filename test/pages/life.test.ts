import { expect } from 'chai';
import type { Browser, BrowserContext, Page } from 'playwright-core';
import { launchChromium } from '../../scripts/browser.js';
import { pages } from '../support/pages.js';

/** An app that follows from its start, and logs its events. */
const FOLLOWING = `<!doctype html><html lang="en"><head><title>Following</title><link rel="icon" href="data:," /></head>
  <body>
  <script type="module">
    import { Receiver, browserSource } from 'aurelian-drift';
    const receiver = new Receiver({
      source: browserSource({ notes: 'silent' }), purpose: 'Test.', warn: (text) => notes.push(text) });
    const notes = [], reported = [];
    const follow = receiver.follow({ background: location.search === '?background' });
    follow.onFix((fix) => reported.push('fix ' + fix.lat));
    follow.onEvent((event) => reported.push(event.kind === 'failed' ? 'failed ' + event.error.kind : event.kind));
    Object.assign(window, { receiver, follow, reported, notes });
  </script></body></html>`;

interface Reported {
  readonly reported: string[];
  readonly notes: string[];
  readonly life: string[];
  readonly secure: string;
}

const HUT = { latitude: 44.2, longitude: -33.6, accuracy: 18 };

describe('a page that follows, in Chromium', function () {
  this.timeout(240_000);
  const served = pages({ following: FOLLOWING });
  let browser: Browser;
  let context: BrowserContext;
  let page: Page;
  before(async () => {
    browser = await launchChromium({ pagesKept: true, insecureHost: 'hut.vanesk.test' });
  });
  after(() => browser.close());
  beforeEach(async () => {
    context = await browser.newContext({ permissions: ['geolocation'], geolocation: HUT });
    page = await context.newPage();
    page.setDefaultTimeout(10_000);
  });
  afterEach(() => context.close());

  const start = async (search = '', at = served.address) => {
    await page.goto(`${at}following.html${search}`);
    await page.waitForFunction(() => (globalThis as unknown as Reported).reported.length > 0);
  };
  /** Waits until the page has logged it. */
  const reported = (what: string, times = 1) =>
    page.waitForFunction(
      ([text, count]) =>
        (globalThis as unknown as Reported).reported.filter((each) => each === text).length >= count,
      [what, times] as const,
    );
  const all = () =>
    page.evaluate(() => {
      const { reported, notes, receiver } = globalThis as unknown as Reported & {
        receiver: { lifeLog: { kind: string }[]; $access: { get(): { secure: string } } };
      };
      return {
        reported,
        notes,
        life: receiver.lifeLog.map(({ kind }) => kind),
        secure: receiver.$access.get().secure,
      };
    });

  it('is told at the start that the page follows only while it is visible', async () => {
    await start('?background');
    await reported('fix 44.2');
    const { reported: events, notes } = await all();
    expect(events[0]).to.equal('visible-only');
    expect(notes.join()).to.include('only while the app is visible');
  });

  it('continues after an outage, and reports its start and its end once', async () => {
    await start();
    await reported('fix 44.2');
    await context.setGeolocation(null);
    await reported('outage');
    await context.setGeolocation({ ...HUT, latitude: 44.2001 });
    await reported('fix 44.2001');
    const { reported: events } = await all();
    expect(events.filter((each) => !each.startsWith('fix'))).to.deep.equal([
      'visible-only',
      'outage',
      'recovered',
    ]);
  });

  it('ends once as withdrawn when the permission is taken back', async () => {
    await start();
    await reported('fix 44.2');
    await context.clearPermissions();
    await reported('failed withdrawn');
    await context.grantPermissions(['geolocation']);
    await context.setGeolocation({ ...HUT, latitude: 44.3 });
    const { reported: events } = await all();
    expect(events.filter((each) => each.startsWith('failed'))).to.deep.equal(['failed withdrawn']);
    expect(events.at(-1)).to.equal('failed withdrawn');
  });

  it('pauses when it is put away for going back, and resumes after a gap when it is restored', async () => {
    await start();
    await reported('fix 44.2');
    await page.evaluate(() => (location.href = '?2')).catch(() => {});
    await page.waitForURL('**?2');
    await page.evaluate(() => history.back()).catch(() => {});
    await reported('resumed');
    await reported('fix 44.2', 2);
    const { reported: events, life } = await all();
    expect(events).to.deep.equal(['visible-only', 'fix 44.2', 'paused', 'resumed', 'gap', 'fix 44.2']);
    expect(life).to.include.members(['frozen', 'hidden', 'restored', 'shown']);
  });

  it('knows after a crash that its earlier run was killed, and after an ordinary end that it was not', async () => {
    await start();
    await reported('fix 44.2');
    await start(); // leaves the page in the ordinary way
    expect((await all()).life).to.deep.equal([]);
    await reported('fix 44.2');
    // The tab is driven without the test library, which considers it lost.
    const devtools = await context.newCDPSession(page);
    const crashed = new Promise((resolve) => page.once('crash', resolve));
    devtools.send('Page.crash').catch(() => {});
    await crashed;
    await devtools.send('Page.navigate', { url: `${served.address}following.html` });
    const events = async () => {
      const { result } = await devtools.send('Runtime.evaluate', {
        expression:
          'globalThis.receiver === undefined ? "" : receiver.lifeLog.map(({ kind }) => kind).join()',
      });
      return String(result.value);
    };
    let found = '';
    while (found === '') found = await events(); // until the page has started
    expect(found).to.equal('killed');
  });

  it('does not take another page that runs for a killed one: a copy of its tab, a frame in it', async () => {
    await start();
    await reported('fix 44.2');
    // A window that a page opens begins with a copy of its session storage, as a copied tab does.
    const opened = context.waitForEvent('page');
    await page.evaluate(() => {
      const frame = document.body.appendChild(document.createElement('iframe'));
      frame.src = location.href;
      frame.allow = 'geolocation';
      window.open(location.href);
    });
    const copy = await opened;
    const frame = () => page.frames().find((each) => each !== page.mainFrame())!;
    for (const run of [copy.mainFrame(), frame()]) {
      await run.waitForFunction(
        () => (globalThis as unknown as Partial<Reported>).reported?.includes('fix 44.2') === true,
      );
      const notes = await run.evaluate(() => Object.keys(sessionStorage));
      expect(notes.length).to.be.above(1); // that of the first page among them
      // The answer of a page that runs takes less time.
      await run.evaluate(() => new Promise((resolve) => setTimeout(resolve, 1000)));
      const life = await run.evaluate(
        () => (globalThis as unknown as { receiver: { lifeLog: unknown[] } }).receiver.lifeLog.length,
      );
      expect(life).to.equal(0);
    }
  });

  it('of an insecure origin is reported, although the permission is granted', async () => {
    await start('', served.address.replace('127.0.0.1', 'hut.vanesk.test'));
    await reported('failed insecure');
    expect((await all()).secure).to.equal('no');
  });
});

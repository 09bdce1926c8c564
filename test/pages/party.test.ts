import { partyBroker, partyUsersFrom, type PartyBroker } from 'aurelian-drift-node';
import { expect } from 'chai';
import { readFile } from 'node:fs/promises';
import type { Page } from 'playwright-core';
import { faultsOf } from '../support/axe.js';
import { mapSays, pages } from '../support/pages.js';
import { eventually } from '../support/eventually.js';

const DOOR = { latitude: 44.187034, longitude: -33.607412, accuracy: 12 };
const allowed = { permissions: ['geolocation'], geolocation: DOOR };

describe('a party on the example pages', function () {
  this.timeout(240_000);
  const { open } = pages();
  let broker: PartyBroker;
  before(async () => {
    const users = JSON.parse(
      await readFile(new URL('../../demo/party.json', import.meta.url), 'utf8'),
    ) as unknown;
    broker = await partyBroker({ users: partyUsersFrom(users), webSocketPort: 0 });
  });
  after(() => broker.close());

  const at = () => `broker=${encodeURIComponent(broker.webSocketAddress ?? '')}`;
  const row = (page: Page, name: string) => page.locator('#roster button', { hasText: name });
  const states = (page: Page) =>
    page
      .locator('#roster button')
      .evaluateAll((rows) =>
        rows.map(({ classList, children }) => `${children[1]?.textContent} ${classList.value}`),
      );

  async function hut() {
    const opened = await open(`hut/?${at()}`);
    await opened.page.getByRole('button', { name: 'Watch the party' }).click();
    await opened.page.locator('#link', { hasText: 'Watching the party vanesk' }).waitFor();
    return opened;
  }
  async function warden(id = 'mirel') {
    const opened = await open(`round/?${at()}&as=${id}`, allowed);
    await opened.page.click('#start');
    await opened.page.locator('#share').waitFor();
    return opened;
  }
  async function share(page: Page) {
    await page.getByRole('switch', { name: 'Share where I am' }).click();
    await page.locator('#share-state', { hasText: 'On: you are seen.' }).waitFor();
  }

  /**
   * Another app covers this one, or goes away: Chromium without a screen never hides a page, so the test sends the
   * event.
   */
  const turn = (page: Page, visibility: 'hidden' | 'visible') =>
    page.evaluate((state) => {
      Object.defineProperty(document, 'visibilityState', { value: state, configurable: true });
      document.dispatchEvent(new Event('visibilitychange'));
    }, visibility);

  it(
    'nobody is seen before the switch is on; then the hut sees them move; off, and they ' + 'have left',
    async () => {
      const inside = await hut();
      const out = await warden();
      await out.page.waitForTimeout(500); // there is no event to wait for: nothing should happen
      expect(await states(inside.page)).to.deep.equal([]);
      expect(await out.page.locator('#share-terms').textContent()).to.match(
        /^Seen by the wardens’ hut, at 127\.0\.0\.1:\d+\.They see the exact place\./,
      );
      await share(out.page);
      await row(inside.page, 'Mirel')
        .locator('.more', { hasText: '44.18703° N, 33.60741° W ±12 m' })
        .waitFor();
      await mapSays(inside.page, '1 member: Mirel');
      await out.context.setGeolocation({ ...DOOR, latitude: 44.19 });
      await row(inside.page, 'Mirel').locator('.more', { hasText: '44.19000° N' }).waitFor();
      await out.page.click('#share');
      await inside.page.locator('#roster button.left').waitFor();
      await row(inside.page, 'Mirel').locator('.more', { hasText: 'no place yet' }).waitFor();
      expect([...out.complaints, ...inside.complaints]).to.deep.equal([]);
      await out.context.close();
      await inside.context.close();
    },
  );

  it('asleep, closed and killed are three different things to the hut', async () => {
    const inside = await hut();
    const [sleeper, leaver, victim] = [await warden('mirel'), await warden('tavi'), await warden('osk')];
    for (const { page } of [sleeper, leaver, victim]) await share(page);
    await eventually(async () =>
      expect((await states(inside.page)).map((each) => each.split(' ')[0]).sort()).to.deep.equal([
        'Mirel',
        'Osk',
        'Tavi',
      ]),
    );
    await turn(sleeper.page, 'hidden');
    await leaver.page.close({ runBeforeUnload: true });
    await victim.page.goto('chrome://crash').catch(() => undefined);
    await eventually(async () =>
      expect((await states(inside.page)).sort()).to.deep.equal(['Mirel asleep', 'Osk vanished', 'Tavi left']),
    );
    await inside.page
      .getByRole('alert')
      .filter({ hasText: 'Osk has vanished, last seen 44.18703° N' })
      .waitFor();
    await turn(sleeper.page, 'visible');
    await eventually(async () =>
      expect(await states(inside.page)).to.include.oneOf(['Mirel moved', 'Mirel still']),
    );

    for (const { context } of [sleeper, leaver, victim, inside]) await context.close();
  });

  it('after a crash sharing is off and the user is asked: the remaining record can be removed', async () => {
    const inside = await hut();
    const out = await warden();
    await share(out.page);
    await row(inside.page, 'Mirel').waitFor();
    const address = out.page.url();
    await out.page.goto('chrome://crash').catch(() => undefined);
    await inside.page.locator('#roster button.vanished').waitFor();
    const again = await out.context.newPage();
    await again.goto(address);
    await again.click('#start');
    await again.locator('#shared-before-text', { hasText: 'You were sharing since' }).waitFor();
    expect(await again.locator('#share').getAttribute('aria-checked')).to.equal('false');
    await again.getByRole('button', { name: 'Take back what is left' }).click();
    await inside.page.locator('#roster button.left').waitFor();
    await out.context.close();
    await inside.context.close();
  });

  it('a wrong password is reported, and the form is there again', async () => {
    const { page, context } = await open(`hut/?${at()}`);
    await page.fill('#password', 'guess');
    await page.getByRole('button', { name: 'Watch the party' }).click();
    await page.locator('#link', { hasText: /refuses: the user name or password is wrong/ }).waitFor();
    expect(await page.locator('#enter').isVisible()).to.equal(true);
    await context.close();
  });

  it(
    'pretend wardens: one continues, one sleeps, one vanishes; no accessibility problem ' +
      'is found, on a phone too',
    async () => {
      const { page, context, complaints } = await open('hut/?pretend&tempo=200');
      // Whichever order a slow machine shows: a member who vanished stays on the roster only for a while.
      await Promise.all([
        page.locator('#roster button.vanished', { hasText: 'Osk' }).waitFor(),
        page.locator('#alarms', { hasText: /Osk\s*gave no sign of life since/ }).waitFor(),
        page.locator('#alarms', { hasText: /Mirel\s*into ./ }).waitFor(),
      ]);
      expect(await faultsOf(page)).to.deep.equal([]);
      expect(complaints).to.deep.equal([]);
      await context.close();
    },
  );
});

import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { eventually } from '../support/eventually.js';
import { pages } from '../support/pages.js';

describe('the panel of the pretend device', function () {
  this.timeout(240_000);
  const { open } = pages();
  const find = async (page: Page) => {
    await page.locator('#find').click();
    await page.getByRole('button', { name: 'Continue' }).click();
  };
  const told = (page: Page, text: string) => page.locator('.told', { hasText: text }).waitFor();

  it('puts the device where it is typed or tapped, and says what is no position', async () => {
    const { page, context, complaints } = await open('whereabouts/?pretend');
    await find(page);
    await page.locator('#map canvas').first().waitFor();
    await page.getByLabel('It is at').fill('somewhere');
    await page.getByRole('button', { name: 'Put it there' }).click();
    await told(page, 'This is no position');
    await page.getByLabel('It is at').fill('44.2100, -33.5900');
    await page.getByRole('button', { name: 'Put it there' }).click();
    await told(page, 'It stands at 44.21000° N, 33.59000° W.');
    await page.locator('#find').click();
    // Under an open sky a fix is off by some metres: 0.0002 degrees of latitude are 22 m.
    await eventually(async () => {
      const text = (await page.locator('#position').textContent()) ?? '';
      expect(Number.parseFloat(text)).to.be.closeTo(44.21, 2e-4);
    });
    const stage = (await page.locator('#map .stage').boundingBox())!;
    await page.getByRole('button', { name: 'Put it by a tap on the map' }).click();
    await page.mouse.click(stage.x + stage.width / 2, stage.y + stage.height / 4);
    await told(page, 'It stands at 44.21');
    await page.locator('#find').click();
    await eventually(async () => {
      const text = (await page.locator('#position').textContent()) ?? '';
      expect(Number.parseFloat(text)).to.be.above(44.2102);
    });
    expect(complaints).to.deep.equal([]);
    await context.close();
  });

  it('answers prompts as it is told, and turns the device off and on', async () => {
    const { page, context } = await open('whereabouts/?pretend');
    await page.getByLabel('Asked, its user').selectOption('refuses');
    await find(page);
    await page
      .getByRole('alert')
      .filter({ hasText: 'You did not allow this page to know your position.' })
      .waitFor();
    await page.getByLabel('Asked, its user').selectOption('allows it');
    await find(page);
    await page.locator('#position', { hasText: '44.20' }).waitFor();
    await page.getByLabel('location is on').uncheck();
    await page.locator('#find').click();
    await page.getByLabel('location is on').and(page.locator(':checked')).waitFor(); // asked for, and turned on
    await page.locator('#position', { hasText: '44.20' }).waitFor();
    await context.close();
  });

  it('changes the gait, the reception and the speed of time in mid-course, hides the page and shows it', async () => {
    const { page, context } = await open('round/?pretend&tempo=20');
    await page.click('#start');
    await page.getByRole('button', { name: 'Continue' }).click();
    const speed = async () => Number.parseFloat((await page.locator('#speed').textContent()) ?? '');
    const radius = async () => Number.parseFloat((await page.locator('#accuracy').textContent())!.slice(1));
    await eventually(async () => expect(await speed()).to.be.within(3, 8));
    // 1.96 times the root of two squares of 3 and 0.7 m, and of 10 and 2 m: about 8 and 25 m.
    await eventually(async () => expect(await radius()).to.be.below(12));
    await page
      .locator('label', { hasText: /^It walks/ })
      .locator('select')
      .selectOption('cycles');
    await eventually(async () => expect(await speed()).to.be.within(9, 30));
    await page.getByLabel('Reception').selectOption('between houses');
    await eventually(async () => expect(await radius()).to.be.above(18));
    await page.getByRole('button', { name: 'Hide the page' }).click();
    await page.locator('#standing', { hasText: 'Paused while the page is hidden.' }).waitFor();
    await page.getByRole('button', { name: 'Show the page' }).click();
    await page.locator('#standing', { hasText: 'Following since' }).waitFor();
    await page.getByLabel('Time').selectOption('stands still');
    await page.waitForURL(/tempo=0/);
    const fixes = Number(await page.locator('#fixes').textContent());
    await page.getByLabel('Time').selectOption('is 5 times as fast');
    await eventually(async () =>
      expect(Number(await page.locator('#fixes').textContent())).to.be.above(fixes + 3),
    );
    await context.close();
  });

  it('kills the page, whose round is there when it is opened again, with the same settings', async () => {
    const { page, context } = await open('round/?pretend&tempo=20');
    await page.click('#start');
    await page.getByRole('button', { name: 'Continue' }).click();
    await page.getByLabel('Time').selectOption('is 60 times as fast');
    await page.waitForFunction(() => Number(document.getElementById('fixes')!.textContent) > 60);
    await page.evaluate(() => addEventListener('pagehide', () => sessionStorage.setItem('told', 'yes')));
    await Promise.all([
      page.waitForEvent('load'),
      page.getByRole('button', { name: 'Kill the page' }).click(),
    ]);
    await page.getByText(/^A round broke off on .*: \d+ fixes, \d+ m\.$/).waitFor();
    expect(await page.evaluate(() => sessionStorage.getItem('told')), 'the end was not told').to.equal(null);
    expect(await page.getByLabel('Time').inputValue()).to.equal('60');
    await context.close();
  });
});

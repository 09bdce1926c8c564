import { planContent, planFrom, readGpx, writeGpx } from 'aurelian-drift';
import { expect } from 'chai';
import { readFile } from 'node:fs/promises';
import type { Page } from 'playwright-core';
import { faultsOf } from '../support/axe.js';
import { eventually } from '../support/eventually.js';
import { mapSays, pages } from '../support/pages.js';

const number = async (page: Page, id: string) => Number(await page.locator(`#${id}`).textContent());
const goOn = (page: Page) => page.getByRole('button', { name: 'Continue' }).click();
/**
 * East into Sedge Bottom, from 6 m before its edge to 12 m behind it, one step every quarter of a second: a runner's
 * pace.
 */
const STEPS = Array.from({ length: 13 }, (_, i) => ({
  latitude: 44.1951,
  longitude: Number((-33.619208 + i * 1.88e-5).toFixed(6)),
  accuracy: 5,
}));
const STRIDE = 250;

describe('the page round', function () {
  this.timeout(240_000);
  const { open } = pages();

  it('follows the position that Chromium gives as it moves, records it, and logs the section crossed', async () => {
    const { page, context, complaints } = await open('round/', {
      permissions: ['geolocation'],
      geolocation: STEPS[0]!,
    });
    await page.getByRole('button', { name: 'Start the round' }).click();
    const own = page.locator('#position');
    await own.filter({ hasText: '44.19510° N, 33.61921° W' }).waitFor();
    await page.locator('#fixes', { hasText: '1' }).waitFor();
    for (const [i, step] of STEPS.entries()) {
      if (i > 0) await context.setGeolocation(step);
      const text = `${step.latitude.toFixed(5)}° N, ${(-step.longitude).toFixed(5)}° W`;
      await own.filter({ hasText: text }).waitFor();
      // Chromium takes times from its own clock: any faster, and no runner could do it.
      await page.waitForTimeout(STRIDE);
    }
    await page.locator('#log li').first().waitFor();
    const log = (await page.locator('#log li').allTextContents()).map((text) => text.replace(/^[\d:]+/, ''));
    expect(log).to.deep.equal(['into Sedge Bottom']);
    expect(await page.locator('#inside').textContent()).to.equal('In Sedge Bottom.');
    expect(await number(page, 'fixes')).to.be.at.least(STEPS.length);
    expect(complaints).to.deep.equal([]);
    await context.close();
  });

  it('lets a clearly marked pretend device walk the round on a desk without a receiver', async () => {
    const { page, context, complaints } = await open('round/?tempo=60');
    await page.click('#start');
    await goOn(page);
    await page.getByText('This page is not allowed to know your position.').waitFor();
    await page.getByRole('button', { name: 'Let a pretend device walk it' }).click();
    await page.getByText('A pretend device walks the Dune Round. This is not where you are.').waitFor();
    await goOn(page);
    await page.getByText('into Marram East').waitFor();
    expect(await page.locator('#inside').textContent()).to.equal('In Marram East.');
    // A fix a second, at a walk of 1.35 m/s.
    const walked = parseFloat((await page.locator('#distance').textContent())!);
    expect(walked / 1.35).to.be.closeTo(await number(page, 'fixes'), 0.3 * (await number(page, 'fixes')));
    await mapSays(page, 'inside Marram East');
    // The two refusals above are the browser's own console messages about the prompt, if any.
    expect(complaints).to.deep.equal([]);
    await context.close();
  });

  it('records nothing in a pause, and gives the finished trail as a GPX file', async () => {
    const { page, context } = await open('round/?tempo=20');
    await page.click('#use-pretend');
    await goOn(page);
    await page.waitForFunction(() => Number(document.getElementById('fixes')!.textContent) >= 20);
    await page.getByRole('button', { name: 'Pause' }).click();
    const paused = await number(page, 'fixes');
    const position = await page.locator('#position').textContent();
    await page.waitForFunction(
      (before) => document.getElementById('position')!.textContent !== before,
      position,
    );
    expect(await number(page, 'fixes')).to.equal(paused);
    await page.getByRole('button', { name: 'Resume' }).click();
    await page.waitForFunction(
      (before) => Number(document.getElementById('fixes')!.textContent) > before + 5,
      paused,
    );
    await page.getByRole('button', { name: 'Finish' }).click();
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'Save as GPX' }).click(),
    ]);
    const [trail] = readGpx(await readFile(await download.path(), 'utf8')).trails;
    expect(trail!.segments.length).to.equal(2);
    expect(trail!.length).to.equal(await number(page, 'fixes'));
    expect(await page.locator('#pause').isDisabled()).to.equal(true);
    await context.close();
  });

  it('yields the map to the hand, and takes it up again when the own place is asked for', async () => {
    const { page, context } = await open('round/', { permissions: ['geolocation'], geolocation: STEPS[0]! });
    await page.click('#start');
    const follow = (checked: boolean) => page.getByRole('switch', { name: 'Follow', checked });
    await follow(true).waitFor();
    const box = (await page.locator('#map .stage').boundingBox())!;
    await page.mouse.move(box.x + 400, box.y + 300);
    await page.mouse.down();
    await page.mouse.move(box.x + 250, box.y + 250, { steps: 5 });
    await page.mouse.up();
    await follow(false).waitFor();
    await page.getByRole('button', { name: 'Own place' }).click();
    await follow(true).click();
    await follow(false).waitFor();
    await context.close();
  });

  it('shows the plan and what is done of it, tells once that it was left, and leads back to it', async () => {
    const { page, context, complaints } = await open('round/?tempo=40&detour', {
      viewport: { width: 390, height: 844 },
    });
    await page.click('#use-pretend');
    await goOn(page);
    const told: string[] = [];
    await page.exposeFunction('told', (text: string) => {
      told.push(text);
    });
    await page.evaluate(() => {
      const now = document.getElementById('plan-now')!;
      const { told } = window as never as { told: (text: string) => void };
      new MutationObserver((changes) => {
        for (const { addedNodes } of changes) for (const node of addedNodes) told(node.textContent ?? '');
      }).observe(now, { childList: true });
    });
    await page.getByText(/^You left the plan at \d\d:\d\d, to its right\.$/).waitFor();
    expect(await page.locator('#plan-choice option:checked').textContent()).to.equal('Dune Round');
    const share = await page.locator('#plan-share').evaluate((bar: HTMLProgressElement) => bar.value);
    expect(share * 3663).to.be.within(220, 420);
    expect(await page.locator('#plan-next').textContent()).to.match(/^Tern Hide, \d+ m$/);
    await mapSays(page, 'line');
    await page.getByRole('button', { name: 'Way back' }).click();
    await page.locator('#way-now', { hasText: /^\d+ m, about \d+ min/ }).waitFor();
    await page.hover('#way-foot'); // pressed, and under the pointer
    expect(await faultsOf(page)).to.deep.equal([]);
    expect(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth)).to.equal(true);
    // The next notice may follow at once: what was told is listed.
    await eventually(() => expect(told).to.include('You are back on the plan.'));
    expect(told.filter((text) => text.startsWith('You left'))).to.have.length(1);
    expect(await page.locator('#way-back').isVisible()).to.equal(false);
    await page.selectOption('#plan-choice', { label: 'none' });
    expect(await page.locator('#plan-card').isVisible()).to.equal(false);
    expect(complaints).to.deep.equal([]);
    await context.close();
  });

  it('offers the way to what is tapped or found, by kind of travel, or says that none leads there', async () => {
    const { page, context, complaints } = await open('round/?tempo=5');
    await page.click('#use-pretend');
    await goOn(page);
    await page.locator('#map canvas').first().waitFor();
    await page.locator('aurelian-find input').fill('Orrin Stores');
    await page.locator('aurelian-find').getByRole('option').first().click();
    await page.getByText('To Orrin Stores', { exact: false }).waitFor();
    await page.getByRole('button', { name: 'On foot' }).click();
    await page
      .locator('#way-steps li', {
        hasText: /^Turn (sharp )?(left|right) onto Long Lane|onto Long Lane|along Long Lane/,
      })
      .first()
      .waitFor();
    expect(await page.locator('#way-steps li').last().textContent()).to.equal('You have arrived');
    expect(await page.getByRole('button', { name: 'On foot' }).getAttribute('aria-pressed')).to.equal('true');
    await page.locator('aurelian-find input').fill('Nethery Telephone');
    await page.locator('aurelian-find').getByRole('option').first().click();
    await page.getByRole('button', { name: 'By car' }).click();
    await page.getByText(/^No way leads there\. The nearest place that can be reached is /).waitFor();
    // The pin that was found, tapped.
    await page.getByRole('button', { name: 'Take it off' }).click();
    const pin = (await page.locator('[data-pin="found"]').boundingBox())!;
    await page.mouse.click(pin.x + pin.width / 2, pin.y + pin.height / 2);
    await page.getByText('To Nethery Telephone', { exact: false }).waitFor();
    expect(await page.locator('#way-part').isVisible()).to.equal(true);
    await page.getByRole('button', { name: 'Take it off' }).click();
    expect(await page.locator('#way-part').isVisible()).to.equal(false);
    expect(complaints).to.deep.equal([]);
    await context.close();
  });

  it('takes a plan from a file, and names what is wrong with one', async () => {
    const { page, context } = await open('round/?tempo=5');
    await page.click('#use-pretend');
    await goOn(page);
    await page.locator('#map canvas').first().waitFor();
    const upload = (name: string, text: string) =>
      page
        .locator('#plan-open')
        .setInputFiles({ name, mimeType: 'application/gpx+xml', buffer: Buffer.from(text) });
    await upload('none.gpx', '<gpx xmlns="http://www.topografix.com/GPX/1/1"></gpx>');
    await page.getByText('there is no route, track or line in it').waitFor();
    const plan = planFrom({
      name: '<b>Own</b>',
      parts: [
        [
          { lat: 44.21, lon: -33.56 },
          { lat: 44.212, lon: -33.553 },
        ],
      ],
    });
    await upload('own.gpx', writeGpx(planContent(plan)));
    await page.waitForFunction(
      () => document.querySelector('#plan-choice option:checked')?.textContent === '<b>Own</b>',
    );
    expect(await page.locator('#plan-left').textContent()).to.match(/m$/);
    await context.close();
  });

  it(
    'offers a round that was interrupted when the page was left, and continues or ' + 'finishes it',
    async () => {
      const { page, context, complaints } = await open('round/?tempo=60&pretend=well');
      const fixes = () => number(page, 'fixes');
      await page.click('#start');
      await goOn(page);
      await page.waitForFunction(() => Number(document.getElementById('fixes')?.textContent) > 100);
      const before = await fixes();
      await page.goto(page.url().replace('&pretend=well', ''));
      await page.getByText(/^A round broke off on .*: \d+ fixes, \d+ m\.$/).waitFor();
      const reported = Number(/(\d+) fixes/.exec((await page.locator('#broken-text').textContent())!)![1]);
      // The last fixes before the page was left may not have reached the store: at sixty fixes a second, those of
      // half a second.
      expect(reported).to.be.at.least(before - 30);
      await page.click('#go-on');
      await page.click('#use-pretend');
      await page.getByRole('button', { name: 'Continue', exact: true }).click();
      await page.waitForFunction(
        (had) => Number(document.getElementById('fixes')?.textContent) > had,
        reported + 20,
      );
      await page.click('#finish');
      await page.locator('#save').waitFor();
      const text = await page.evaluate(async () =>
        (await fetch((document.getElementById('save') as HTMLAnchorElement).href)).text(),
      );
      const [trail] = readGpx(text).trails;
      expect(trail!.length).to.be.above(reported + 20);
      expect(trail!.segments[1]!.start).to.equal(reported);
      // Everything is closed.
      await page.reload();
      await page.getByRole('button', { name: 'Start the round' }).waitFor();
      expect(await page.locator('#broken').isVisible()).to.equal(false);
      expect(complaints).to.deep.equal([]);
      await context.close();
    },
  );

  it('keeps sightings with their place as records of the app, and saves one without a place', async () => {
    const { page, context, complaints } = await open('round/', {
      permissions: ['geolocation'],
      geolocation: STEPS[0]!,
    });
    const note = async (text: string) => {
      await page.locator('#sighting-text').fill(text);
      await page.getByRole('button', { name: 'Note it' }).click();
    };
    await note('Before the start');
    await page.locator('#sightings li', { hasText: 'without a place' }).waitFor();
    await page.click('#start');
    await page.locator('#position', { hasText: '44.19510° N' }).waitFor();
    await note('<b>Two blues</b>');
    await mapSays(page, '<b>Two blues</b>');
    type Kept = { text: string; place?: { lat: number; lon: number; accuracy: number; text?: string } };
    const kept = () =>
      page.evaluate(() => JSON.parse(localStorage.getItem('round/sightings')!) as unknown) as Promise<Kept[]>;
    await eventually(async () => expect((await kept())[0]!.place).to.have.property('text'));
    const [blues, start] = await kept();
    expect(blues!.text).to.equal('<b>Two blues</b>');
    expect(blues!.place).to.include({ lat: 44.1951, lon: -33.619208, accuracy: 5 });
    expect(blues!.place!.text).to.be.a('string');
    expect(start).to.not.have.property('place');
    await page.reload();
    await page.locator('#sightings li', { hasText: '<b>Two blues</b>' }).waitFor();
    await page.getByRole('button', { name: 'Remove: Before the start' }).click();
    expect((await kept()).map(({ text }) => text)).to.deep.equal(['<b>Two blues</b>']);
    expect(complaints).to.deep.equal([]);
    await context.close();
  });

  it('lists kept trails by day, opens several, saves, reports, replays and deletes them; tells what is gone', async () => {
    const { page, context, complaints } = await open('round/?pretend&tempo=60');
    const row = page.locator('#trails li');
    for (const count of [1, 2]) {
      await page.click('#start');
      await goOn(page);
      await page.waitForFunction(() => Number(document.getElementById('fixes')?.textContent) > 40);
      await page.click('#finish');
      await eventually(async () => expect(await row.count()).to.equal(count));
      await page.reload();
    }
    await eventually(async () => expect(await row.count()).to.equal(2));
    expect(await page.locator('#trails h3').count()).to.equal(1);
    for (const box of await row.locator('input').all()) await box.check();
    await page.locator('#map canvas').first().waitFor();
    await mapSays(page, '2 trails');
    const saved = async (name: string) => {
      const [download] = await Promise.all([
        page.waitForEvent('download'),
        row.first().getByRole('button', { name }).click(),
      ]);
      return { name: download.suggestedFilename(), text: await readFile(await download.path(), 'utf8') };
    };
    const { name, text } = await saved('GPX');
    expect(name).to.match(/^round-\d{4}-\d\d-\d\d\.gpx$/);
    expect(readGpx(text).trails[0]!.length).to.be.above(40);
    expect((await saved('Report')).text)
      .to.include('<html')
      .and.to.include('Crossings');
    await page.getByRole('button', { name: 'Close all' }).click();
    await page.getByRole('button', { name: 'Start the round' }).waitFor();
    page.once('dialog', (dialog) => void dialog.accept());
    await row.first().getByRole('button', { name: 'Delete' }).click();
    await eventually(async () => expect(await row.count()).to.equal(1));
    await row.first().getByRole('link', { name: 'Replay' }).click();
    await page.locator('#height canvas').waitFor();
    // The browser erases the trail by itself: that is told at the next visit.
    await page.goBack();
    await row.first().waitFor();
    expect(await page.locator('#erased').textContent()).to.equal('');
    await page.goto(new URL('..', page.url()).href);
    await page.evaluate(
      () =>
        new Promise((resolve) => {
          indexedDB.deleteDatabase('round').onsuccess = resolve;
        }),
    );
    await page.goBack();
    await page.getByText('A trail that was kept here is gone').waitFor();
    expect(complaints).to.deep.equal([]);
    await context.close();
  });

  it('tells when the browser has no room left, and goes on in memory', async () => {
    const { page, context } = await open('round/?pretend&tempo=20');
    await page.click('#start');
    await goOn(page);
    await page.waitForFunction(() => Number(document.getElementById('fixes')?.textContent) > 10);
    await page.evaluate(() => {
      const full = () => {
        throw new DOMException('The quota is used up.', 'QuotaExceededError');
      };
      const own = Object.getOwnPropertyDescriptors(IDBObjectStore.prototype);
      Object.assign(IDBObjectStore.prototype, { put: full, add: full });
      Object.assign(window, { empty: () => Object.defineProperties(IDBObjectStore.prototype, own) });
    });
    await page.getByText('The browser has no room left: delete old trails. It goes on in memory.').waitFor();
    const fixes = await number(page, 'fixes');
    await eventually(async () => expect(await number(page, 'fixes')).to.be.above(fixes));
    await page.evaluate(() => (window as never as { empty: () => void }).empty());
    await page.locator('#trouble:empty').waitFor({ state: 'attached' });
    await context.close();
  });
});

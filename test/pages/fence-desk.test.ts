import { fencesFrom, type PolygonFence } from 'aurelian-drift';
import { expect } from 'chai';
import { readFile } from 'node:fs/promises';
import type { Page } from 'playwright-core';
import { faultsOf } from '../support/axe.js';
import { pages } from '../support/pages.js';

const started = async (page: Page) => {
  await page.click('#use-pretend');
  await page.getByRole('button', { name: 'Continue', exact: true }).click();
  await page.locator('#map canvas').first().waitFor();
};
const reported = (page: Page) => page.locator('#fence-events').textContent();
/** The fences in the file of the save link. */
const saved = async (page: Page) => {
  const [download] = await Promise.all([page.waitForEvent('download'), page.click('#fence-save')]);
  return fencesFrom(JSON.parse(await readFile(await download.path(), 'utf8')));
};
const CORNERS = [
  [0.3, 0.3],
  [0.6, 0.25],
  [0.7, 0.5],
  [0.4, 0.6],
] as const;

describe('fences drawn on the page round', function () {
  this.timeout(240_000);
  const { open } = pages();

  it(
    'are put down by the mouse, moved by their corners, watched at once, saved as GeoJSON, and there ' +
      'again after a reload',
    async () => {
      const { page, context, complaints } = await open('round/?tempo=20');
      await started(page);
      await page.click('#draw-outline');
      await page.fill('#fence-name', 'Dune <path>');
      const box = (await page.locator('#map').boundingBox())!;
      const at = ([x, y]: readonly [number, number]) =>
        [box.x + box.width * x, box.y + box.height * y] as const;
      expect(await page.locator('#fence-done').isDisabled()).to.equal(true);
      for (const [i, corner] of CORNERS.entries()) {
        await page.mouse.click(...at(corner));
        await page.locator(`[data-pin="corner-${i}"]`).waitFor();
      }
      expect(await reported(page)).to.equal('An outline of 4 corners. Drag a corner to move it.');
      expect(await page.locator('#tapped').textContent()).to.equal('Or tap the map for an address.');
      // A corner that is dragged across the opposite side makes an outline that crosses itself, which is refused.
      const drag = async (from: readonly [number, number], to: readonly [number, number]) => {
        const [x, y] = at(from);
        await page.mouse.move(x, y - 20);
        await page.mouse.down();
        await page.mouse.move(x, y, { steps: 3 });
        await page.mouse.move(...at(to), { steps: 5 });
        await page.mouse.up();
      };
      await drag(CORNERS[3], [0.8, 0.3]);
      await page.getByText(/an outline that crosses itself/).waitFor();
      expect(await page.locator('#fence-done').isDisabled()).to.equal(true);
      await page.click('#corner-undo');
      await page.getByText('An outline of 3 corners.').waitFor();
      await page.click('#fence-done');
      expect(await reported(page)).to.equal('Dune <path> is watched now.');
      const [fence] = (await saved(page)) as [PolygonFence];
      expect([fence.kind, fence.name, fence.parts[0]![0]!.length]).to.deep.equal([
        'polygon',
        'Dune <path>',
        3,
      ]);
      await page.reload();
      await started(page);
      expect(await page.locator('#own-fences li').allTextContents()).to.deep.equal([
        'Dune <path>ChangeRemove',
      ]);
      expect(await saved(page)).to.deep.equal([fence]);
      await page.getByRole('button', { name: 'Remove Dune <path>' }).click();
      expect(await page.locator('#own-fences li').count()).to.equal(0);
      expect(complaints).to.deep.equal([]);
      await context.close();
    },
  );

  it('are put down by fingers on a phone, a circle around where one is, entered and no longer watched', async () => {
    const { page, context, complaints } = await open('round/?tempo=20', {
      viewport: { width: 390, height: 844 },
      hasTouch: true,
    });
    await started(page);
    await page.tap('#draw-circle');
    await page.fill('#fence-metres', '2000');
    const box = (await page.locator('#map').boundingBox())!;
    await page.touchscreen.tap(box.x + box.width / 2, box.y + box.height / 2);
    await page.getByText('A circle of 2.00 km.').waitFor();
    await page.tap('#fence-done');
    await page.getByText('in Fence 1', { exact: true }).waitFor();
    expect(await page.locator('#inside').textContent()).to.include('Fence 1');
    await page.getByRole('button', { name: 'Remove Fence 1' }).tap();
    await page.getByText('no longer watched: Fence 1').waitFor();
    expect(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth)).to.equal(true);
    expect(complaints).to.deep.equal([]);
    await context.close();
  });

  it('are drawn and changed with keys alone, and have no fault that a checker of accessibility finds', async () => {
    const { page, context } = await open('round/?tempo=20');
    await started(page);
    const press = async (name: string) => {
      await page.getByRole('button', { name, exact: true }).focus();
      await page.keyboard.press('Enter');
    };
    await press('A lane');
    await page.keyboard.type('Lane 1');
    await page.keyboard.press('Tab');
    await page.keyboard.press('ControlOrMeta+A');
    await page.keyboard.type('25');
    for (const key of ['ArrowRight', 'ArrowDown']) {
      await press('Corner here');
      await page.locator('#map .stage').focus();
      await page.keyboard.press(key);
    }
    await press('Corner here');
    await page.getByText('A lane of 3 corners, 50 m wide.').waitFor();
    expect(await faultsOf(page)).to.deep.equal([]);
    await press('Done');
    const [lane] = await saved(page);
    expect(lane).to.include({ kind: 'corridor', halfWidth: 25 });
    await press(`Change ${lane!.name}`);
    await page.locator('[data-pin="corner-1"]').focus();
    for (const key of [' ', 'ArrowUp', ' ']) await page.keyboard.press(key);
    await press('Done');
    const [changed] = await saved(page);
    const places = (fence: typeof lane) => (fence?.kind === 'corridor' ? fence.lines[0]! : []);
    expect(places(changed)[1]!.lat).to.be.above(places(lane)[1]!.lat);
    expect([places(changed)[0], places(changed)[2]]).to.deep.equal([places(lane)[0], places(lane)[2]]);
    await context.close();
  });

  it('are read from a file, and nothing of one that is refused, with every problem named', async () => {
    const { page, context } = await open('round/?tempo=20');
    await started(page);
    const feature = (id: string, radius: number) => ({
      type: 'Feature',
      id,
      geometry: { type: 'Point', coordinates: [-33.55, 44.21] },
      properties: { radius },
    });
    const file = (name: string, features: object[]) => ({
      name,
      mimeType: 'application/geo+json',
      buffer: Buffer.from(JSON.stringify({ type: 'FeatureCollection', features })),
    });
    await page.setInputFiles(
      '#fence-open',
      file('bad.geojson', [feature('a', 0), feature('b', 5), feature('b', 6)]),
    );
    await page.getByText('bad.geojson: 2 problems').waitFor();
    expect(await reported(page))
      .to.include('fence "a": radius must be')
      .and.to.include('the same id "b"');
    expect(await page.locator('#own-fences li').count()).to.equal(0);
    await page.setInputFiles('#fence-open', file('good.geojson', [feature('a', 50)]));
    await page.getByText('1 fence of good.geojson.').waitFor();
    expect(await page.locator('#own-fences li').count()).to.equal(1);
    await context.close();
  });
});

import { Trail, fixFrom, writeCsv, writeGpx, writeKml, ahead, readGpx } from 'aurelian-drift';
import { expect } from 'chai';
import { readFile } from 'node:fs/promises';
import type { Page } from 'playwright-core';
import { eventually } from '../support/eventually.js';
import { mapSays, pages } from '../support/pages.js';

/** East for 1000 s at 1.5 m/s, up to 20 m and down again, with a gap of five minutes after the half. */
const START = Date.UTC(2026, 4, 14, 8);
const WEST = { lat: 44.195, lon: -33.63 };
const trail = new Trail({ name: 'East <i>walk</i>' });
for (let i = 0; i <= 1000; i += 5) {
  const late = i > 500 ? 300 : 0;
  if (i === 505) trail.breakSegment();
  trail.append(
    fixFrom({
      time: START + (i + late) * 1000,
      ...ahead(WEST, 90, i * 1.5),
      accuracy: 6,
      altitude: 20 - Math.abs(i - 500) / 25,
      altitudeDatum: 'sea',
      speed: 1.5,
      course: 90,
    }),
  );
}

describe('the page replay', function () {
  this.timeout(240_000);
  const { open } = pages();

  const drop = (page: Page, name: string, text: string) =>
    page.evaluate(
      ([name, text]) => {
        const data = new DataTransfer();
        data.items.add(new File([text], name));
        document.dispatchEvent(
          new DragEvent('drop', { dataTransfer: data, bubbles: true, cancelable: true }),
        );
      },
      [name, text] as const,
    );
  const scrub = (page: Page, seconds: number) => page.locator('#time').fill(String(seconds));
  const text = (page: Page, id: string) => page.locator(`#${id}`).textContent();

  it('shows a dropped file of any format, and each moment of it in map, profiles and book at once', async () => {
    const { page, context, complaints } = await open('replay/');
    const files = { 'a.gpx': writeGpx, 'a.kml': writeKml, 'a.csv': writeCsv };
    for (const [name, write] of Object.entries(files)) {
      await drop(page, name, write({ trails: [trail] }));
      await page.locator('#height canvas').waitFor();
      await mapSays(page, 'own place 44.19500° N, 33.63000° W');
      await scrub(page, 400);
      // 400 s at 1.5 m/s along the parallel: 600 m.
      await eventually(async () => expect(await text(page, 'along')).to.match(/^(59\d|60\d) m$/));
      expect(await text(page, 'speed-now')).to.equal('5.4 km/h');
      expect(await text(page, 'clock')).to.match(/^\d\d:06:40, 6 min 40 s$/);
      await mapSays(page, `own place 44.1950`);
    }
    // In the gap the last fix before it is shown, and the profile is broken.
    await scrub(page, 700);
    await mapSays(page, 'own place');
    expect(await text(page, 'along')).to.match(/^(74\d|75\d) m$/);
    // The pointer over a chart is the same moment.
    const over = (await page.locator('#height .u-over').boundingBox())!;
    await page.mouse.move(over.x + over.width / 4, over.y + 20);
    await eventually(async () =>
      expect(Number(await page.locator('#time').inputValue())).to.be.closeTo(325, 12),
    );
    await page.getByRole('button', { name: 'Play' }).click();
    await eventually(async () => expect(Number(await page.locator('#time').inputValue())).to.be.above(350));
    await page.getByRole('button', { name: 'Stop' }).click();
    await page.locator('#over').selectOption('distance');
    await page.locator('#path').selectOption('smoothed');
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Save smoothed' }).click(),
    ]);
    const [saved] = readGpx(await readFile(await download.path(), 'utf8')).trails;
    expect(saved!.length).to.equal(trail.length);
    expect(complaints).to.deep.equal([]);
    await context.close();
  });

  it('lists the crossings of any fences, leads to each, and names what is wrong with a file', async () => {
    const { page, context } = await open('replay/');
    await drop(page, 'notes.txt', 'no trail at all');
    await page.locator('#trouble', { hasText: 'notes.txt: this is no GPX' }).waitFor();
    await drop(page, 'broken.gpx', '<gpx xmlns="http://www.topografix.com/GPX/1/1"><trk></gpx>');
    await page.locator('#trouble', { hasText: 'broken.gpx:1' }).waitFor();
    await drop(page, 'empty.gpx', '<gpx xmlns="http://www.topografix.com/GPX/1/1"></gpx>');
    await page.locator('#trouble', { hasText: 'empty.gpx: there is no trail and no line in it' }).waitFor();
    await drop(page, 'a.gpx', writeGpx({ trails: [trail] }));
    await page.locator('#height canvas').waitFor();
    const centre = ahead(WEST, 90, 450);
    const fence = {
      type: 'FeatureCollection',
      features: [
        {
          type: 'Feature',
          id: 'f',
          properties: { name: '<b>Ring</b>', radius: 90 },
          geometry: { type: 'Point', coordinates: [centre.lon, centre.lat] },
        },
      ],
    };
    const upload = (content: string) =>
      page
        .locator('#fences')
        .setInputFiles({ name: 'f.geojson', mimeType: 'application/geo+json', buffer: Buffer.from(content) });
    await upload('{ nothing');
    await page.locator('#fences-trouble', { hasText: 'JSON' }).waitFor();
    await upload(JSON.stringify(fence));
    const rows = page.locator('#crossings li');
    await rows.filter({ hasText: 'out of <b>Ring</b>' }).waitFor();
    // In at 360 m and out at 540 m: after 240 and 360 s.
    expect((await rows.allTextContents()).map((row) => row.replace(/\d\d:(\d\d:\d\d)/, '$1 '))).to.deep.equal(
      ['04:00 into <b>Ring</b>', '06:00 out of <b>Ring</b>2 min'],
    );
    await rows.first().getByRole('button').click();
    await scrub(page, 300);
    expect(await text(page, 'inside')).to.equal('In <b>Ring</b>.');
    await rows.last().getByRole('button').click();
    expect(await page.locator('#time').inputValue()).to.equal('360');
    // A route has no times.
    await drop(page, 'r.gpx', writeGpx({ routes: [{ name: 'R', parts: [[WEST, ahead(WEST, 0, 900)]] }] }));
    await page.getByText('A line without times').waitFor();
    expect(await page.locator('#profiles').isVisible()).to.equal(false);
    await context.close();
  });
});

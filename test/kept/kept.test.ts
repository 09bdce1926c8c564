import { FenceWatch, readCrossings } from 'aurelian-drift';
import type * as Drift from 'aurelian-drift';
import { diskGuardStore, diskStore } from 'aurelian-drift-node';
import type * as DriftMap from 'aurelian-drift/map';
import { MemberGuard, pageMemory } from 'aurelian-drift/presence';
import type * as Stores from 'aurelian-drift/stores';
import { ClassicLevel } from 'classic-level';
import { expect } from 'chai';
import { readFileSync, readdirSync } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { opened, sealed } from '../support/kept-text.js';
import { pages } from '../support/pages.js';
import { ALARM, FENCE, SHARED, after as onwards, before as soFar, everyField, hut } from './sample.js';

type Contents = Readonly<Record<string, string>>;
interface Kept {
  readonly trails: Contents;
  readonly guards: Contents;
  readonly watch: string;
  readonly sharing: string;
}
declare const window: Window & { drift: typeof Drift; stores: typeof Stores; map: typeof DriftMap };

const here = new URL('.', import.meta.url);
const layouts = readdirSync(here).filter((name) => /^layout-\d+\.json$/.test(name));
const PAGE = `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Kept</title>
  <link rel="icon" href="data:," /></head>
  <body><div id="map" style="width: 640px; height: 480px"></div><script type="module">
    import * as drift from 'aurelian-drift'; import * as stores from 'aurelian-drift/stores';
    import * as map from 'aurelian-drift/map';
    Object.assign(window, { drift, stores, map });
  </script></body></html>`;

/** A database with these contents, in its own folder. */
async function database(contents: Contents): Promise<string> {
  const folder = await mkdtemp(join(tmpdir(), 'kept-'));
  const level = new ClassicLevel<string, Uint8Array>(folder, { valueEncoding: 'view' });
  for (const [key, value] of Object.entries(contents)) await level.put(key, Buffer.from(value, 'base64'));
  await level.close();
  return folder;
}

for (const name of layouts)
  describe(`the data kept in ${name}`, () => {
    const kept = JSON.parse(readFileSync(new URL(name, here), 'utf8')) as Kept;
    const { open } = pages({ kept: PAGE });
    const folders: string[] = [];
    after(() => Promise.all(folders.map((folder) => rm(folder, { recursive: true }))));
    const keptIn = async (contents: Contents) => {
      folders.push(await database(contents));
      return folders.at(-1)!;
    };

    it('is a trail on disk, with every field of its fixes, its breaks, its notes and its crossings', async () => {
      const store = diskStore(await keptIn(kept.trails));
      const [entry, ...more] = await store.list();
      expect(more).to.deep.equal([]);
      expect(entry).to.include({
        name: 'Tarn Round',
        fixes: 34,
        finished: true,
        start: everyField[0]!.time,
        end: soFar.at(-1)!.time,
      });
      const trail = (await store.read(entry!.id))!;
      expect([...trail]).to.deep.equal([...everyField, ...soFar]);
      expect(trail.segments.map(({ start, end }) => [start, end])).to.deep.equal([
        [0, 3],
        [3, 34],
      ]);
      expect((await store.notes(entry!.id))[0]).to.deep.equal({ seen: 'ringlet, 3' });
      const [crossing, ...others] = await readCrossings(store, entry!.id);
      expect(others).to.deep.equal([]);
      expect(crossing).to.include({ kind: 'enter', fence: 'orchard', name: 'Orchard' });
      expect(crossing!.time).to.be.closeTo(soFar[20]!.time, 300);
      await store.close();
    });

    it('is the same trail in a browser', async () => {
      const { page, context, complaints } = await open('kept.html');
      await page.waitForFunction(() => 'map' in window);
      const fixes = await page.evaluate(async (contents) => {
        const bytes = (text: string) => Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0));
        const opening = indexedDB.open('kept', 1);
        opening.onupgradeneeded = () =>
          ['heads', 'records', 'aside'].forEach((store) => opening.result.createObjectStore(store));
        await new Promise((done) => (opening.onsuccess = done));
        const transaction = opening.result.transaction(['heads', 'records'], 'readwrite');
        for (const [key, value] of Object.entries(contents)) {
          const [kind, id = '', number] = key.split('/');
          if (kind === 'head')
            transaction.objectStore('heads').put(new TextDecoder().decode(bytes(value)), id);
          else transaction.objectStore('records').put(bytes(value), [id, Number(number)]);
        }
        await new Promise((done) => (transaction.oncomplete = done));
        opening.result.close();
        const store = window.stores.browserStore({ name: 'kept' });
        const [entry] = await store.list();
        return [...(await store.read(entry!.id))!].map((fix) => ({ ...fix }));
      }, kept.trails);
      expect(fixes).to.deep.equal([...everyField, ...soFar].map((fix) => ({ ...fix })));
      expect(complaints).to.deep.equal([]);
      await context.close();
    });

    it('is a fence watch that continues: a user who was inside leaves, once', () => {
      const watch = new FenceWatch([FENCE]);
      expect(watch.restore(kept.watch)).to.deep.equal([]);
      expect([...watch.inside]).to.deep.equal(['orchard']);
      const reported = onwards.flatMap((fix) => watch.take(fix));
      expect(reported.map(({ kind }) => kind)).to.deep.equal(['exit']);
      expect(reported[0]!.time).to.be.closeTo(soFar[0]!.time + 40_000, 300);
      expect(reported[0]!.duration).to.be.closeTo(20, 0.5);
    });

    it('is the memory of a guard: its members, its alarms, and the state at the broker', async () => {
      const store = await diskGuardStore(await keptIn(kept.guards));
      const [[id, memory]] = (await store.members()) as [[string, string]];
      const guard = new MemberGuard(id, new FenceWatch([FENCE]));
      expect(guard.restore(memory)).to.deep.equal([]);
      expect([id, guard.present, guard.clearAt]).to.deep.equal(['ines', true, undefined]);
      const seen = soFar.at(-1)!.time;
      expect(guard.checkIn(60, seen + 59_000)).to.deep.equal([]);
      expect(guard.checkIn(60, seen + 60_000).map(({ kind, time }) => [kind, time])).to.deep.equal([
        ['missed', seen],
      ]);
      expect([await store.log(), await store.unreported()]).to.deep.equal([[ALARM], [ALARM]]);
      expect(await store.subscribed('vanesk.guard.1-1')).to.equal(true);
      await store.close();
    });

    it('is that sharing was on, and the view of a map', async () => {
      const storage = { getItem: () => kept.sharing, setItem: () => {}, removeItem: () => {} };
      expect(pageMemory(() => storage).read()).to.deep.equal(SHARED);
      const { page, context } = await open('kept.html');
      await page.waitForFunction(() => 'map' in window);
      const read = await page.evaluate(
        (text) => {
          localStorage.setItem('aurelian-drift/view/kept', text);
          const sheet = new window.map.MapSheet({
            container: document.getElementById('map')!,
            keepView: 'kept',
          });
          const { centre, zoom, turn } = sheet.$view.get()!;
          return { centre: { lat: centre.lat, lon: centre.lon }, zoom, turn };
        },
        sealed('map-view', 1, { centre: hut, zoom: 14.5, turn: 30 }),
      );
      expect(read).to.deep.equal({ centre: hut, zoom: 14.5, turn: 30 });
      await context.close();
    });

    it('has a check sum in each record: with one bit changed anywhere nothing false is read', async () => {
      const texts = [kept.watch, kept.sharing];
      for (const contents of [kept.trails, kept.guards])
        for (const [key, value] of Object.entries(contents)) {
          const bytes = Buffer.from(value, 'base64');
          if (bytes.toString('latin1').startsWith('aurelian-drift ')) texts.push(bytes.toString());
          else expect(key.startsWith('subscribed/') || bytes[0] === 0x44, key).to.equal(true);
        }
      expect(texts.map((text) => opened(text).version)).to.satisfy((all: number[]) =>
        all.every((one) => one === 1),
      );
      const records = Object.entries(kept.trails).filter(([key]) => key.startsWith('record/'));
      for (const [key, value] of records) {
        const bytes = Buffer.from(value, 'base64');
        const at = [0, 1, 2, 4, bytes.length - 1][Number(key.at(-1)) % 5]!;
        bytes[at]! ^= 4;
        const store = diskStore(await keptIn({ ...kept.trails, [key]: bytes.toString('base64') }), {
          warn: () => {},
        });
        const [entry] = await store.list();
        const read = [...(await store.read(entry!.id))!];
        for (const fix of read) expect([...everyField, ...soFar]).to.deep.include(fix);
        await store.close();
      }
    });
  });

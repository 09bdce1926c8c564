/*
 * Writes the kept data of this version as samples for its tests and those of later versions: node
 * --conditions=aurelian-source --import=tsx test/kept/make.ts N writes layout-N.json. A published file is never written
 *   again.
 */
import { CrossingLog, FenceWatch, Recorder } from 'aurelian-drift';
import { diskGuardStore, diskStore } from 'aurelian-drift-node';
import { MemberGuard, pageMemory } from 'aurelian-drift/presence';
import { ClassicLevel } from 'classic-level';
import { existsSync } from 'node:fs';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ALARM, FENCE, SHARED, before, everyField } from './sample.js';

const file = new URL(`layout-${process.argv[2] ?? ''}.json`, import.meta.url);
if (!/-\d+\.json$/.test(file.pathname) || existsSync(file))
  throw new Error('name a layout that has no file yet');

/** All keys and values of a database, in Base64. */
async function contents(folder: string): Promise<Record<string, string>> {
  const level = new ClassicLevel<string, Uint8Array>(folder, { valueEncoding: 'view' });
  const found: Record<string, string> = {};
  for await (const [key, value] of level.iterator()) found[key] = Buffer.from(value).toString('base64');
  await level.close();
  return found;
}

const work = await mkdtemp(join(tmpdir(), 'kept-'));

const trails = diskStore(join(work, 'trails'));
const recorder = new Recorder({ store: trails, name: 'Tarn Round' });
const log = new CrossingLog(new FenceWatch([FENCE]), recorder);
recorder.start();
for (const fix of everyField) recorder.take(fix);
recorder.keepNote({ seen: 'ringlet, 3' });
recorder.pause();
recorder.resume();
for (const fix of before) {
  recorder.take(fix);
  log.take(fix);
}
await recorder.finish();
await trails.close();

const watch = new FenceWatch([FENCE]);
for (const fix of before) watch.take(fix);

const guard = new MemberGuard('ines', watch);
guard.takeState(
  { state: 'here', session: 'mabc-1', link: 2, sent: before.at(-1)!.time, keepAlive: 30, retention: 600 },
  false,
  before.at(-1)!.time,
);
const guards = await diskGuardStore(join(work, 'guards'));
await guards.save('ines', guard.memory, [ALARM]);
await guards.setSubscribed('vanesk.guard.1-1', true);
await guards.close();

let sharing = '';
pageMemory(() => ({
  getItem: () => null,
  setItem: (_, text) => (sharing = text),
  removeItem: () => {},
})).write(SHARED);

const kept = {
  trails: await contents(join(work, 'trails')),
  guards: await contents(join(work, 'guards')),
  watch: watch.state,
  sharing,
};
await writeFile(file, `${JSON.stringify(kept, null, 2)}\n`);
await rm(work, { recursive: true });

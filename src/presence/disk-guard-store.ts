import { ClassicLevel } from 'classic-level';
import { InputError } from '../core/check/input-error.js';
import type { MemberMemory } from '../core/presence/member-guard.js';
import type { Alarm } from '../core/presence/messages.js';
import type { GuardStore } from './guard-store.js';

/** After every key of a kind: greater than any letter of one. */
const AFTER = '~';
/** Digits of a time in a key, so that keys sort as times do. */
const DIGITS = 15;

/**
 * Keeps what a guard must not forget in a folder (LevelDB), which is this process’s own while it is open: it survives kill -9.
 *
 * @throws {InputError} when another process has the folder open.
 */
export async function diskGuardStore(
  folder: string,
  { create = true }: { readonly create?: boolean } = {},
): Promise<GuardStore> {
  const level = new ClassicLevel<string, string>(folder, { keyEncoding: 'utf8', valueEncoding: 'utf8' });
  try {
    await level.open({ createIfMissing: create });
  } catch (error) {
    const { cause } = error as { cause?: { code?: string } };
    if (!create && cause?.code !== 'LEVEL_LOCKED')
      throw new InputError('nothing-inside', `${folder} is no memory of a guard`);
    if (cause?.code !== 'LEVEL_LOCKED') throw error;
    throw new InputError(
      'bad-value',
      `another guard keeps its memory in ${folder}`,
      {},
      'Give each its own folder',
    );
  }
  const values = async (start: string) => {
    const found: string[] = [];
    for await (const value of level.values({ gt: start, lt: start + AFTER })) found.push(value);
    return found;
  };
  return {
    async members() {
      const found: [string, MemberMemory][] = [];
      for await (const [key, value] of level.iterator({ gt: 'member/', lt: `member/${AFTER}` }))
        found.push([key.slice('member/'.length), JSON.parse(value) as MemberMemory]);
      return found;
    },
    async save(member, memory, alarms) {
      const fresh = [];
      for (const alarm of alarms)
        if ((await level.get(`alarm/${keyOf(alarm)}`)) === undefined) fresh.push(alarm);
      await level.batch([
        { type: 'put', key: `member/${member}`, value: JSON.stringify(memory) },
        ...fresh.flatMap((alarm) => [
          { type: 'put' as const, key: `alarm/${keyOf(alarm)}`, value: JSON.stringify(alarm) },
          { type: 'put' as const, key: `untold/${keyOf(alarm)}`, value: JSON.stringify(alarm) },
        ]),
      ]);
    },
    untold: async () => (await values('untold/')).map((text) => JSON.parse(text) as Alarm),
    markTold: (alarms) =>
      level.batch(alarms.map((alarm) => ({ type: 'del' as const, key: `untold/${keyOf(alarm)}` }))),
    subscribed: async (client) => (await level.get(`subscribed/${client}`)) !== undefined,
    setSubscribed: (client, value) =>
      value ? level.put(`subscribed/${client}`, '') : level.del(`subscribed/${client}`),
    log: async () => (await values('alarm/')).map((text) => JSON.parse(text) as Alarm),
    close: () => level.close(),
  };
}

function keyOf({ time, id }: Alarm): string {
  return `${String(Math.round(time)).padStart(DIGITS, '0')}/${id}`;
}

import { ClassicLevel } from 'classic-level';
import { InputError, type Warn } from 'aurelian-drift';
import type { Alarm, GuardStore, MemberMemory } from 'aurelian-drift/presence';
import { alarmOfText, alarmText, closedByAwaitUsing, consoleWarn } from 'aurelian-drift/internal';

/** After every key of a kind: greater than any character of one. */
const AFTER = '~';
/** Digits of a time in a key, so that keys sort by time. */
const DIGITS = 15;

/**
 * Stores the state of a guard in a folder (LevelDB), which only this process can use while it is open. Stored data
 * survives kill -9.
 *
 * @throws {InputError} when another process has the folder open.
 */
export async function diskGuardStore(
  folder: string,
  { create = true, warn = consoleWarn }: { readonly create?: boolean; readonly warn?: Warn } = {},
): Promise<GuardStore> {
  const damaged = new Set<string>();
  const level = new ClassicLevel<string, string>(folder, { keyEncoding: 'utf8', valueEncoding: 'utf8' });
  try {
    await level.open({ createIfMissing: create });
  } catch (error) {
    const { cause } = error as { cause?: { code?: string } };
    if (!create && cause?.code !== 'LEVEL_LOCKED')
      throw new InputError('nothing-inside', `${folder} is not a valid state of a guard`);
    if (cause?.code !== 'LEVEL_LOCKED') throw error;
    throw new InputError(
      'bad-value',
      `another guard stores its state in ${folder}`,
      {},
      'Give each guard its own folder',
    );
  }
  /** The alarms under a key prefix. Damaged ones are left out, and reported once. */
  const alarmsIn = async (start: string) => {
    const found: Alarm[] = [];
    for await (const [key, value] of level.iterator({ gt: start, lt: start + AFTER })) {
      try {
        found.push(alarmOfText(value));
      } catch (error) {
        if (!(error instanceof InputError)) throw error;
        if (damaged.has(key)) continue;
        damaged.add(key);
        warn(`an alarm in ${folder} is left out: ${key}: ${error.message}`);
      }
    }
    return found;
  };
  return closedByAwaitUsing<GuardStore>({
    async members() {
      const found: [string, string][] = [];
      for await (const [key, value] of level.iterator({ gt: 'member/', lt: `member/${AFTER}` }))
        found.push([key.slice('member/'.length), value]);
      return found;
    },
    async save(member, memory: MemberMemory, alarms) {
      const fresh = [];
      for (const alarm of alarms)
        if ((await level.get(`alarm/${keyOf(alarm)}`)) === undefined) fresh.push(alarm);
      await level.batch([
        { type: 'put', key: `member/${member}`, value: memory.text },
        ...fresh.flatMap((alarm) => [
          { type: 'put' as const, key: `alarm/${keyOf(alarm)}`, value: alarmText(alarm) },
          { type: 'put' as const, key: `untold/${keyOf(alarm)}`, value: alarmText(alarm) },
        ]),
      ]);
    },
    unreported: () => alarmsIn('untold/'),
    markReported: (alarms) =>
      level.batch(alarms.map((alarm) => ({ type: 'del' as const, key: `untold/${keyOf(alarm)}` }))),
    subscribed: async (client) => (await level.get(`subscribed/${client}`)) !== undefined,
    setSubscribed: (client, value) =>
      value ? level.put(`subscribed/${client}`, '') : level.del(`subscribed/${client}`),
    log: () => alarmsIn('alarm/'),
    close: () => level.close(),
  });
}

function keyOf({ time, id }: Alarm): string {
  return `${String(Math.round(time)).padStart(DIGITS, '0')}/${id}`;
}

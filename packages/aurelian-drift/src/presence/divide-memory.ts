import { InputError } from '../core/check/input-error.js';
import { memberFactsOf } from '../core/presence/member-memory.js';
import type { Alarm } from '../core/presence/messages.js';
import { slotNumberOf } from '../core/presence/topics.js';
import type { GuardStore } from './guard-store.js';

/**
 * Divides what guards remember anew, for another number of slots: the store of slot 1 first. Each member goes with its
 * alarms, and those that were not told yet are told by the guard that takes it up. Of a member that several remember
 * the latest memory counts. Nothing is taken from the old ones.
 *
 * @returns how many members each slot has got.
 * @throws {InputError} when there is something in one of the new stores.
 */
export async function divideMemory(
  from: readonly GuardStore[],
  into: readonly GuardStore[],
): Promise<number[]> {
  for (const [i, store] of into.entries())
    if ((await store.members()).length > 0)
      throw new InputError('bad-value', `the memory for slot ${i + 1} is not empty`, {}, 'Give each new slot a new one'); // prettier-ignore
  const latest = new Map<string, { readonly sign: number; readonly store: GuardStore }>();
  for (const store of from)
    for (const [member, memory] of await store.members()) {
      const sign = lastSign(member, memory);
      if (sign > (latest.get(member)?.sign ?? -1)) latest.set(member, { sign, store });
    }
  const counts = into.map(() => 0);
  for (const store of from) {
    const unreported = new Set((await store.unreported()).map(({ id }) => id));
    const alarms = new Map<string, Alarm[]>();
    for (const alarm of await store.log())
      alarms.set(alarm.member, [...(alarms.get(alarm.member) ?? []), alarm]);
    for (const [member, memory] of await store.members()) {
      if (latest.get(member)?.store !== store) continue;
      const slot = slotNumberOf(member, into.length) - 1;
      const own = alarms.get(member) ?? [];
      // What is damaged goes along as it is: the guard that takes it up tells of it, and begins anew.
      await into[slot]?.save(member, { text: memory }, own);
      await into[slot]?.markReported(own.filter(({ id }) => !unreported.has(id)));
      counts[slot] = (counts[slot] ?? 0) + 1;
    }
  }
  return counts;
}

/** Milliseconds since 1970 UTC of the last that was known of a member; 0 for a memory that is damaged. */
function lastSign(member: string, memory: string): number {
  try {
    const { seen = 0, vanished = 0, watch } = memberFactsOf(member, memory);
    return Math.max(seen, vanished, watch.last?.time ?? 0);
  } catch (error) {
    if (error instanceof InputError) return 0;
    throw error;
  }
}

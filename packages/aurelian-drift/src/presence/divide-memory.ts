import { InputError } from '../core/check/input-error.js';
import { memberFactsOf } from '../core/presence/member-memory.js';
import type { Alarm } from '../core/presence/messages.js';
import { slotNumberOf } from '../core/presence/topics.js';
import type { GuardStore } from './guard-store.js';

/**
 * Divides the states of guards for another number of slots: the store of slot 1 first. Each member moves with its
 * alarms; unreported ones are reported by the new guard. If several stores have a member, the latest state is used. The
 * old stores are not changed.
 *
 * @returns the number of members of each slot.
 * @throws {InputError} when one of the new stores is not empty.
 */
export async function divideMemory(
  from: readonly GuardStore[],
  into: readonly GuardStore[],
): Promise<number[]> {
  for (const [i, store] of into.entries())
    if ((await store.members()).length > 0)
      throw new InputError(
        'bad-value',
        `the memory for slot ${i + 1} is not empty`,
        {},
        'Give each new slot a new one',
      );
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
      // Damaged states are copied as they are: the new guard reports them, and begins anew.
      await into[slot]?.save(member, { text: memory }, own);
      await into[slot]?.markReported(own.filter(({ id }) => !unreported.has(id)));
      counts[slot] = (counts[slot] ?? 0) + 1;
    }
  }
  return counts;
}

/** Time of the latest data of a member, milliseconds since 1970 UTC; 0 for a damaged state. */
function lastSign(member: string, memory: string): number {
  try {
    const { seen = 0, vanished = 0, watch } = memberFactsOf(member, memory);
    return Math.max(seen, vanished, watch.last?.time ?? 0);
  } catch (error) {
    if (error instanceof InputError) return 0;
    throw error;
  }
}

import type { MemberMemory } from '../core/presence/member-memory.js';
import { closedByAwaitUsing } from '../live/dispose.js';
import type { Alarm } from '../core/presence/messages.js';

/** Store for the state of a guard. */
export interface GuardStore {
  /** Stored states by member. The guard checks them. */
  members(): Promise<readonly (readonly [member: string, text: string])[]>;
  /**
   * Stores the state of a member together with the new, unreported alarms, all or nothing. Resolves when they survive
   * the end of the process.
   */
  save(member: string, memory: MemberMemory, alarms: readonly Alarm[]): Promise<void>;
  /** Stored alarms that were not reported yet, oldest first. */
  unreported(): Promise<readonly Alarm[]>;
  /** Marks alarms as reported. */
  markReported(alarms: readonly Alarm[]): Promise<void>;
  /** Whether the subscriptions of a client id are complete at the broker, as far as was stored. */
  subscribed(client: string): Promise<boolean>;
  setSubscribed(client: string, subscribed: boolean): Promise<void>;
  /** All alarms, each once, in order of time. */
  log(): Promise<readonly Alarm[]>;
  /** Closes the store. Closing twice is harmless. */
  close(): Promise<void>;
}

/** A store that lasts as long as the process. */
export function memoryGuardStore(): GuardStore {
  const members = new Map<string, MemberMemory>();
  const log = new Map<string, Alarm>();
  const unreported = new Map<string, Alarm>();
  const subscribed = new Set<string>();
  return closedByAwaitUsing<GuardStore>({
    members: () => Promise.resolve(Array.from(members, ([member, { text }]) => [member, text] as const)),
    save(member, memory, alarms) {
      members.set(member, memory);
      for (const alarm of alarms) {
        if (log.has(alarm.id)) continue;
        log.set(alarm.id, alarm);
        unreported.set(alarm.id, alarm);
      }
      return Promise.resolve();
    },
    unreported: () => Promise.resolve([...unreported.values()]),
    markReported(alarms) {
      for (const { id } of alarms) unreported.delete(id);
      return Promise.resolve();
    },
    subscribed: (client) => Promise.resolve(subscribed.has(client)),
    setSubscribed(client, value) {
      if (value) subscribed.add(client);
      else subscribed.delete(client);
      return Promise.resolve();
    },
    log: () => Promise.resolve([...log.values()].sort((a, b) => a.time - b.time)),
    close: () => Promise.resolve(),
  });
}

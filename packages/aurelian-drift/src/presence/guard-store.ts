import type { MemberMemory } from '../core/presence/member-memory.js';
import { closedByAwaitUsing } from '../live/dispose.js';
import type { Alarm } from '../core/presence/messages.js';

/** Where a guard keeps what it must not forget. */
export interface GuardStore {
  /** What was remembered of each member: the text that was saved, or whatever has become of it. The guard checks it. */
  members(): Promise<readonly (readonly [member: string, text: string])[]>;
  /**
   * Keeps what is remembered of a member, and the alarms that came of it as untold, all of it or nothing; resolves once
   * that survives the end of the process.
   */
  save(member: string, memory: MemberMemory, alarms: readonly Alarm[]): Promise<void>;
  /** Alarms that were kept and not yet told, oldest first. */
  unreported(): Promise<readonly Alarm[]>;
  /** They were told. */
  markReported(alarms: readonly Alarm[]): Promise<void>;
  /** Whether the broker knows what a client of that name wants to hear, as far as was kept. */
  subscribed(client: string): Promise<boolean>;
  setSubscribed(client: string, subscribed: boolean): Promise<void>;
  /** All alarms there were, each once, in order of time. */
  log(): Promise<readonly Alarm[]>;
  /** Lets go of where it is kept. Closing twice is harmless. */
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

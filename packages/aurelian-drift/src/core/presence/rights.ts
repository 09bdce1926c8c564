import { readTopic, type MemberTopic } from './topics.js';

/**
 * Roles in a party. A `member` publishes its own place and state, and reads the alarms about it. A `viewer` reads
 * everything and publishes nothing. A `guard` reads everything, publishes alarms about everybody, and removes the
 * records of vanished members.
 */
export const ROLES = ['member', 'viewer', 'guard'] as const;
/** Role of a user of a broker. */
export type Role = (typeof ROLES)[number];

/** A user of a broker. */
export interface Holder {
  readonly role: Role;
  readonly party: string;
  /** Id of the member; the name of a viewer or guard. */
  readonly id: string;
}

/** Whether a user may publish to a topic. @param empty whether the message removes a retained one. */
export function mayPublish({ role, party, id }: Holder, topic: string, empty: boolean): boolean {
  const parts = readTopic(topic);
  if (parts?.party !== party) return false;
  switch (role) {
    case 'member':
      return parts.member === id && parts.leaf !== 'alarm';
    case 'viewer':
      return false;
    case 'guard':
      return parts.leaf === 'alarm' || empty;
  }
}

/** Whether a user may subscribe to a topic or a filter. */
export function mayRead({ role, party, id }: Holder, filter: string): boolean {
  if (role === 'member') return isOwn(readTopic(filter), party, id);
  const [drift, version, of, ...rest] = filter.split('/');
  return drift === 'drift' && version === '1' && of === party && rest.length > 0;
}

function isOwn(parts: MemberTopic | undefined, party: string, id: string): boolean {
  return parts?.party === party && parts.member === id;
}

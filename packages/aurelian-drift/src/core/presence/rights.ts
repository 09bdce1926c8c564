import { readTopic, type MemberTopic } from './topics.js';

/**
 * What one may do in a party. A `member` writes their own place and state, and reads what is told of them. A `viewer`
 * reads all and writes nothing. A `guard` reads all, tells alarms of everybody, and clears away what is left of those
 * who vanished.
 */
export const ROLES = ['member', 'viewer', 'guard'] as const;
/** Role of a user of a broker. */
export type Role = (typeof ROLES)[number];

/** Somebody a broker knows. */
export interface Holder {
  readonly role: Role;
  readonly party: string;
  /** Of the member; the name of a viewer or guard otherwise. */
  readonly id: string;
}

/** Whether they may publish so. @param empty whether it takes back what is kept. */
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

/** Whether they may hear of a topic, or of all that a filter covers. */
export function mayRead({ role, party, id }: Holder, filter: string): boolean {
  if (role === 'member') return isOwn(readTopic(filter), party, id);
  const [drift, version, of, ...rest] = filter.split('/');
  return drift === 'drift' && version === '1' && of === party && rest.length > 0;
}

function isOwn(parts: MemberTopic | undefined, party: string, id: string): boolean {
  return parts?.party === party && parts.member === id;
}

import { FNV_START, fnv1aByte } from '../check/fnv.js';
import { InputError } from '../check/input-error.js';
import { formatValue } from '../check/number.js';

/** Number of buckets over which the members of a party are spread. */
export const BUCKETS = 256;
/** Version of the topics; a change of the messages makes it 2. */
const VERSION = '1';
/** Last levels of the topics of a member. */
const LEAVES = ['place', 'state', 'alarm'] as const;
/** Last level of a member topic. */
export type Leaf = (typeof LEAVES)[number];

/** Parts of a topic. */
export interface MemberTopic {
  readonly party: string;
  readonly member: string;
  readonly leaf: Leaf;
}

/** One of `count` shares of the buckets; `number` counts from 1. */
export interface Slot {
  readonly number: number;
  readonly count: number;
}

/** A name that is safe in a topic of every broker: no separators, wildcards or characters with a meaning. */
const ID = /^[a-z0-9][a-z0-9_-]{0,63}$/;

/**
 * Checks the id of a party or a member.
 *
 * @throws {InputError} for an invalid id.
 */
export function checkId(what: 'party' | 'member', id: unknown): string {
  if (typeof id === 'string' && ID.test(id)) return id;
  throw new InputError(
    'bad-value',
    `the id of a ${what} is 1 to 64 small letters, digits, - and _, and begins with a letter or ` +
      `digit; got ${formatValue(id)}`,
  );
}

/** Bucket of a member, 0 to 255, always the same: FNV-1a of its id, folded to eight bits as its authors describe. */
export function bucketOf(member: string): number {
  // The bytes of an id are its characters: all are below 128.
  let hash = FNV_START;
  for (let i = 0; i < member.length; i++) hash = fnv1aByte(member.charCodeAt(i), hash);
  return (hash ^ (hash >>> 8) ^ (hash >>> 16) ^ (hash >>> 24)) & 0xff;
}

/** `drift/1/<party>/<bucket>/<member>/<leaf>` */
export function memberTopic(party: string, member: string, leaf: Leaf): string {
  return `drift/${VERSION}/${party}/${bucketOf(member)}/${member}/${leaf}`;
}

/** Parts of a topic; `undefined` for a topic that is not of a member, or has the member in the wrong bucket. */
export function readTopic(topic: string): MemberTopic | undefined {
  const parts = topic.split('/');
  if (parts.length !== 6 || parts[0] !== 'drift' || parts[1] !== VERSION) return undefined;
  const [party, bucket, member, last] = [parts[2] as string, parts[3], parts[4] as string, parts[5]];
  const leaf = LEAVES.find((each) => each === last);
  if (leaf === undefined || !ID.test(party) || !ID.test(member)) return undefined;
  return bucket === String(bucketOf(member)) ? { party, member, leaf } : undefined;
}

/** Topic filters for all members of a party, or for the members of a slot. */
export function partyFilters(party: string, slot?: Slot): string[] {
  const start = `drift/${VERSION}/${party}`;
  if (slot === undefined || slot.count === 1) return [`${start}/+/+/+`];
  return slotBuckets(slot).map((bucket) => `${start}/${bucket}/+/+`);
}

/** Buckets of a slot: every `count`-th. Each bucket is in one slot, and the sizes of slots differ by at most one. */
export function slotBuckets({ number, count }: Slot): number[] {
  return Array.from({ length: BUCKETS }, (_, bucket) => bucket).filter(
    (bucket) => numberOf(bucket, count) === number,
  );
}

/** Number of the slot of a member. */
export function slotNumberOf(member: string, count: number): number {
  return numberOf(bucketOf(member), count);
}

function numberOf(bucket: number, count: number): number {
  return (bucket % count) + 1;
}

/** Whether a slot is valid: its number is 1 to `count`, which is at most 256. */
export function isSlot({ number, count }: Slot): boolean {
  return (
    Number.isInteger(number) && Number.isInteger(count) && number >= 1 && number <= count && count <= BUCKETS
  );
}

/**
 * Reads a slot that is written `2/4`.
 *
 * @throws {InputError} for another text.
 */
export function slotFrom(text: string): Slot {
  const [, number = 0, count = 0] = (/^(\d{1,3})\/(\d{1,3})$/.exec(text) ?? []).map(Number);
  if (isSlot({ number, count })) return { number, count };
  throw new InputError(
    'bad-value',
    `a slot is written like 2/4, the second of four, at most ${BUCKETS}; got ${formatValue(text)}`,
  );
}

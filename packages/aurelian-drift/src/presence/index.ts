/* Sharing positions with a party, and seeing the others, over MQTT. */

export { Presence, type JoinOutcome, type PresenceOptions, type PresenceStatus } from './presence.js';
export { termsText, type SharingTerms } from './terms.js';
export { pageMemory, type SharedBefore, type SharingMemory } from './sharing-memory.js';
export { PartyWatch, type PartyEvent, type PartyWatchOptions } from './party-watch.js';
export { PartyGuard, type GuardCounts, type PartyGuardOptions } from './party-guard.js';
export { memoryGuardStore, type GuardStore } from './guard-store.js';
export { divideMemory } from './divide-memory.js';
export type { LinkStatus } from './link.js';
export { mqttBroker, type MqttBrokerOptions } from './mqtt-broker.js';
export { BrokerError, type Broker, type Wire, type WireMessage, type WireOptions } from './broker.js';

export { LiveVeil } from '../core/trail/live-veil.js';
export {
  MESSAGE_PROBLEMS,
  readMessage,
  type MessageProblem,
  type MessageReading,
} from '../core/presence/read-message.js';
export {
  MESSAGE_BYTES,
  writeAlarmMessage,
  writePlaceMessage,
  writeStateMessage,
  type Alarm,
  type PlanAlarmKind,
  type AlarmEvent,
  type SharedPlace,
  type SharedState,
} from '../core/presence/messages.js';
export {
  MEMBER_STATES,
  Roster,
  type Dropped,
  type Member,
  type MemberState,
  type RosterEvent,
  type RosterOptions,
  type RosterResult,
} from '../core/presence/roster.js';
export {
  BUCKETS,
  bucketOf,
  memberTopic,
  partyFilters,
  readTopic,
  slotBuckets,
  slotFrom,
  type Leaf,
  type MemberTopic,
  type Slot,
} from '../core/presence/topics.js';
export { ROLES, mayPublish, mayRead, type Holder, type Role } from '../core/presence/rights.js';
export { membersOnMap } from '../core/presence/on-map.js';
export { MemberGuard } from '../core/presence/member-guard.js';
export { PlanGuard, type PlanGuardMemory, type PlanReport } from '../core/presence/plan-guard.js';
export type { MemberMemory } from '../core/presence/member-memory.js';

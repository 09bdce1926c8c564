import * as v from 'valibot';
import { formatValue } from '../check/number.js';
import { CROSSING_KINDS } from '../fence/crossing.js';
import { parseTime } from '../formats/time.js';
import {
  PLAN_ALARM_KINDS,
  MESSAGE_BYTES,
  SESSION,
  type Alarm,
  type SharedPlace,
  type SharedState,
} from './messages.js';
import { placeFrom } from './read-place.js';
import { readTopic, type MemberTopic } from './topics.js';

/**
 * Reasons why a message is dropped. `ancient` is found by the roster, which knows the time and the earlier messages.
 */
export const MESSAGE_PROBLEMS = ['forged', 'oversized', 'malformed', 'ancient'] as const;
/**
 * Reason why a message is dropped: sent by another member than its topic states, too large, of the wrong shape, or too
 * old.
 */
export type MessageProblem = (typeof MESSAGE_PROBLEMS)[number];

/** Content of a message, or the reason why it is dropped. */
export type MessageReading =
  | { readonly kind: 'place'; readonly topic: MemberTopic; readonly place: SharedPlace }
  | { readonly kind: 'state'; readonly topic: MemberTopic; readonly state: SharedState }
  | { readonly kind: 'alarm'; readonly topic: MemberTopic; readonly alarm: Alarm }
  /** The member took it back. */
  | { readonly kind: 'cleared'; readonly topic: MemberTopic }
  | { readonly kind: 'problem'; readonly problem: MessageProblem; readonly reason: string };

const Time = v.pipe(
  v.string(),
  v.maxLength(40),
  v.transform(parseTime),
  v.check((time) => !Number.isNaN(time), 'no time'),
);
const Count = v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(Number.MAX_SAFE_INTEGER));
const Amount = v.pipe(v.number(), v.minValue(0), v.maxValue(1e7));
const Seconds = v.pipe(v.number(), v.minValue(0), v.maxValue(1e9));
const Session = v.pipe(v.string(), v.regex(SESSION));
const Member = v.string();
const Label = v.pipe(v.string(), v.maxLength(80));
const Lat = v.pipe(v.number(), v.minValue(-90), v.maxValue(90));
const Lon = v.pipe(v.number(), v.minValue(-180), v.maxValue(180));
const Point = v.object({ type: v.literal('Point'), coordinates: v.looseTuple([Lon, Lat]) });

const State = v.object({
  type: v.literal('Feature'),
  geometry: v.null(),
  properties: v.object({
    member: Member,
    state: v.picklist(['here', 'asleep', 'vanished']),
    session: Session,
    link: Count,
    sent: v.optional(Time),
    keepAlive: v.pipe(v.number(), v.minValue(1), v.maxValue(86_400)),
    retention: v.pipe(v.number(), v.minValue(0), v.maxValue(86_400)),
    name: v.optional(Label),
    until: v.optional(Time),
    rounding: v.optional(Amount),
    still: v.optional(Time),
    veiled: v.optional(v.literal(true)),
  }),
});
const AlarmShape = v.object({
  type: v.literal('Feature'),
  geometry: v.nullable(Point),
  properties: v.object({
    member: Member,
    id: v.pipe(v.string(), v.nonEmpty(), v.maxLength(400)),
    kind: v.picklist([...CROSSING_KINDS, 'missed', 'back', ...PLAN_ALARM_KINDS]),
    time: Time,
    fence: v.optional(v.pipe(v.string(), v.maxLength(200))),
    name: v.optional(v.pipe(v.string(), v.maxLength(200))),
    certainty: v.optional(v.pipe(v.number(), v.minValue(0), v.maxValue(1))),
    duration: v.optional(Seconds),
    notBefore: v.optional(Time),
  }),
});

/** Maximum number of topics in the cache of a reader; they are few and repeat. */
const REMEMBERED = 100_000;

/** Reads the messages of a party. */
export class MessageReader {
  readonly #party: string;
  readonly #topics = new Map<string, MemberTopic>();

  constructor(party: string) {
    this.#party = party;
  }

  /** Reads a message. Never throws: a message that cannot be used gives a problem with its reason in words. */
  read(topic: string, payload: string): MessageReading {
    const parts = this.#partsOf(topic);
    if (parts?.party !== this.#party)
      return problem('forged', `"${topic.slice(0, 80)}" is not a topic of a member of ${this.#party}`);
    if (payload.length === 0) return { kind: 'cleared', topic: parts };
    if (payload.length > MESSAGE_BYTES)
      return problem('oversized', `it is longer than ${MESSAGE_BYTES} letters`);
    let document: unknown;
    try {
      document = JSON.parse(payload);
    } catch {
      return problem('malformed', 'it is not JSON');
    }
    const whose = (document as { properties?: { member?: unknown } } | null)?.properties?.member;
    if (whose !== undefined && whose !== parts.member)
      return problem('forged', `${formatValue(whose)} is published under the topic of ${parts.member}`);
    switch (parts.leaf) {
      case 'place':
        return placeOf(parts, document);
      case 'state':
        return stateOf(parts, document);
      case 'alarm':
        return alarmOf(parts, document);
    }
  }

  #partsOf(topic: string): MemberTopic | undefined {
    const known = this.#topics.get(topic);
    if (known !== undefined) return known;
    const parts = readTopic(topic);
    if (parts === undefined) return undefined;
    if (this.#topics.size >= REMEMBERED) this.#topics.clear();
    this.#topics.set(topic, parts);
    return parts;
  }
}

/** Reads one message, as a `MessageReader` does. */
export function readMessage(party: string, topic: string, payload: string): MessageReading {
  return new MessageReader(party).read(topic, payload);
}

function placeOf(topic: MemberTopic, document: unknown): MessageReading {
  const place = placeFrom(document);
  return typeof place === 'string' ? problem('malformed', place) : { kind: 'place', topic, place };
}

function stateOf(topic: MemberTopic, document: unknown): MessageReading {
  const result = v.safeParse(State, document, { abortEarly: true });
  if (!result.success) return malformed(result.issues[0]);
  const { member: _, ...state } = result.output.properties;
  return { kind: 'state', topic, state };
}

function alarmOf(topic: MemberTopic, document: unknown): MessageReading {
  const result = v.safeParse(AlarmShape, document, { abortEarly: true });
  if (!result.success) return malformed(result.issues[0]);
  const { geometry, properties } = result.output;
  const [lon, lat] = geometry?.coordinates ?? [];
  return { kind: 'alarm', topic, alarm: { ...properties, lat, lon } };
}

function malformed(issue: v.BaseIssue<unknown>): MessageReading {
  const path = issue.path?.map(({ key }) => String(key)).join('.') ?? '';
  return problem(
    'malformed',
    `${path === '' ? 'it' : path}: expected ${issue.expected ?? issue.message}, got ${issue.received.slice(0, 80)}`,
  );
}

function problem(kind: MessageProblem, reason: string): MessageReading {
  return { kind: 'problem', problem: kind, reason };
}

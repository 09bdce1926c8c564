import { keptText, readKept, type KeptKind } from '../check/kept-text.js';
import { finite, objectOf, optional, refuseDamaged, text } from '../check/shape.js';
import type { Alarm } from './messages.js';

const KIND: KeptKind = { kind: 'alarm', version: 1, what: 'an alarm of a guard' };

const LAYOUT = objectOf({
  id: text,
  member: text,
  kind: text,
  time: finite,
  fence: optional(text),
  name: optional(text),
  lat: optional(finite),
  lon: optional(finite),
  certainty: optional(finite),
  stay: optional(finite),
  notBefore: optional(finite),
});

/** An alarm as text to store. */
export function alarmText({
  id,
  member,
  kind,
  time,
  fence,
  name,
  lat,
  lon,
  certainty,
  duration,
  notBefore,
}: Alarm): string {
  return keptText(KIND, {
    id,
    member,
    kind,
    time,
    fence,
    name,
    lat,
    lon,
    certainty,
    stay: duration,
    notBefore,
  });
}

/** @throws {InputError} of kind `bad-value` for an alarm that is damaged or of another version. */
export function alarmOfText(kept: string): Alarm {
  const { value } = readKept(KIND, kept);
  refuseDamaged(value, LAYOUT, 'this is not a valid alarm of a guard');
  const { stay, ...alarm } = value as Omit<Alarm, 'duration'> & { readonly stay?: number };
  return stay === undefined ? alarm : { ...alarm, duration: stay };
}

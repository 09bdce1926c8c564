import * as v from 'valibot';
import { InputError } from '../check/input-error.js';
import { ORIGINS, type Fix, type Origin } from '../fix/fix.js';
import { positionProblem, type Position } from '../geodesy/position.js';
import { ADDRESS_ENTRIES, OptionalText } from './address-schema.js';
import { ADDRESS_PARTS, type Address, type PlaceAnswer } from './place.js';

/** A place in the records of an app: position and names. Plain data, for JSON or any store. */
export interface PlaceRecord extends Position {
  /** 95 % radius of the fix in metres. */
  readonly accuracy?: number;
  /** Time of the fix, milliseconds since 1970 UTC. */
  readonly time: number;
  readonly origin: Origin;
  /** Text of the answer, on one line. */
  readonly text?: string;
  readonly name?: string;
  readonly address?: Address;
  /** BCP 47 tag of the names. */
  readonly language?: string;
}

/** Makes a record from a fix, and from the answer for it when there is one. */
export function placeRecord(fix: Fix, answer?: PlaceAnswer): PlaceRecord {
  const { lat, lon, accuracy, time, origin } = fix;
  const numbers = { lat, lon, ...(accuracy !== undefined && { accuracy }), time, origin };
  if (answer === undefined) return Object.freeze(numbers);
  const { text, name, language } = answer;
  const parts = ADDRESS_PARTS.filter((part) => answer[part] !== undefined);
  return Object.freeze({
    ...numbers,
    text,
    ...(name !== undefined && { name }),
    ...(parts.length > 0 && {
      address: Object.freeze(Object.fromEntries(parts.map((part) => [part, answer[part]]))),
    }),
    ...(language !== undefined && { language }),
  });
}

const Record = v.object({
  lat: v.number(),
  lon: v.number(),
  accuracy: v.optional(v.pipe(v.number(), v.minValue(0))),
  time: v.number(),
  origin: v.picklist(ORIGINS),
  text: OptionalText,
  name: OptionalText,
  address: v.optional(v.object(ADDRESS_ENTRIES)),
  language: OptionalText,
});

/**
 * Checks a stored record; the result equals the one of `placeRecord`. Unknown keys are left out.
 *
 * @throws {InputError} that names the key and its value.
 */
export function placeRecordFrom(value: unknown): PlaceRecord {
  const result = v.safeParse(Record, value, { abortEarly: true });
  if (!result.success) {
    const [issue] = result.issues;
    const path = issue.path?.map((item) => item.key as string | number) ?? [];
    throw new InputError(
      'bad-value',
      `this is not a place record: expected ${issue.expected}, got ${issue.received}`,
      {
        path,
      },
    );
  }
  const problem = positionProblem(result.output.lat, result.output.lon);
  if (problem !== undefined) throw new InputError('impossible-position', problem);
  return Object.freeze(result.output) as PlaceRecord;
}

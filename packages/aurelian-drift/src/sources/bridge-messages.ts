import * as v from 'valibot';
import { formatValue } from '../core/check/number.js';
import { BRIDGE_VERSION, MOST } from './bridge-version.js';

/*
 * The bridge: messages between a page and the native shell around it. Plain objects, each with `drift` (the version)
 * and `kind`; several may come as an array. docs/bridge.md describes them for makers of shells. The messages of each side
 * have a file, and docs/bridge.schema.json is made of the two; this one reads both.
 */

/** Id of a question, or of a watch. */
export const id = v.pipe(v.number(), v.integer(), v.minValue(0));
/** A text for people. */
export const words = v.pipe(v.string(), v.maxLength(500));
/** A text that nobody can guess. */
export const token = v.pipe(v.string(), v.minLength(8), v.maxLength(100));
const drift = v.literal(BRIDGE_VERSION);
export const metres = v.pipe(v.number(), v.minValue(0.1), v.maxValue(1e6));
export const time = v.pipe(v.number(), v.minValue(0));

/** Schema of a message. */
export const message = <Kind extends string, Fields extends v.ObjectEntries>(kind: Kind, fields: Fields) =>
  v.object({ drift, kind: v.literal(kind), ...fields });

export type Messages<Table extends Record<string, v.GenericSchema>> = v.InferOutput<Table[keyof Table]>;
type Table = Record<string, v.ObjectSchema<v.ObjectEntries, undefined>>;

/**
 * A message; one to leave alone, with what is not known of it; or the problem with it. `unknown` names what a later
 * version may have brought: it is no fault.
 */
export type Read<Message> =
  | { readonly state: 'read'; readonly message: Message; readonly unknown: readonly string[] }
  | { readonly state: 'unknown'; readonly unknown: readonly string[] }
  | { readonly state: 'wrong'; readonly reason: string };

/** The messages of what came through a port: one, or a batch; or the problem with the batch. */
export function unpack(data: unknown): readonly unknown[] | string {
  if (!Array.isArray(data)) return [data];
  return data.length <= MOST ? (data as unknown[]) : `a batch has ${data.length} messages, ${MOST} at most`;
}

/** Reads a message of one side. */
export function readMessage<Own extends Table>(table: Own, data: unknown): Read<Messages<Own>> {
  if (typeof data !== 'object' || data === null) return wrong('a message must be an object');
  const { drift: version, kind } = data as { drift?: unknown; kind?: unknown };
  if (version !== BRIDGE_VERSION)
    return wrong(`version ${formatValue(version)} is not spoken here; drift must be ${BRIDGE_VERSION}`);
  if (typeof kind !== 'string') return wrong(`kind must be a text, got ${formatValue(kind)}`);
  const schema = Object.hasOwn(table, kind) ? table[kind] : undefined;
  if (schema === undefined) return { state: 'unknown', unknown: [`the message ${formatValue(kind)}`] };
  const result = v.safeParse(schema, data, { abortEarly: true });
  if (!result.success) {
    const [issue] = result.issues;
    const where = v.getDotPath(issue) ?? 'it';
    return wrong(`${kind}: ${where} should be ${issue.expected ?? 'something else'}, got ${issue.received}`);
  }
  const unknown = Object.keys(data)
    .filter((name) => !Object.hasOwn(schema.entries, name))
    .map((name) => `the field ${formatValue(name)} of ${kind}`);
  return { state: 'read', message: result.output, unknown };
}

function wrong(reason: string): { readonly state: 'wrong'; readonly reason: string } {
  return { state: 'wrong', reason };
}

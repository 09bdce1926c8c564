import * as v from 'valibot';
import { formatValue } from '../core/check/number.js';
import { ACCESS_LEVELS } from '../receiver/access.js';
import { LIFE_EVENTS } from '../receiver/life.js';

/*
 * The bridge: messages between a page and the native shell around it. Plain objects, each with `drift` (the version) and
 * `kind`; several may come as an array. docs/bridge.md describes them for makers of shells, docs/bridge.schema.json is
 * made of this file.
 */

export const BRIDGE_VERSION = 2;
/** Most messages of a batch, and most fixes of a message. */
export const MOST = 1000;

const id = v.pipe(v.number(), v.integer(), v.minValue(0));
const words = v.pipe(v.string(), v.maxLength(500));
const token = v.pipe(v.string(), v.minLength(8), v.maxLength(100));
const drift = v.literal(BRIDGE_VERSION);
const metres = v.pipe(v.number(), v.minValue(0.1), v.maxValue(1e6));
const time = v.pipe(v.number(), v.minValue(0));

/** The values of an access, one by one: a wrong one says nothing, and the others count. */
const ACCESS = {
  support: v.picklist(['yes', 'no']),
  secure: v.picklist(['yes', 'no', 'unknown']),
  policy: v.picklist(['allowed', 'forbidden', 'unknown']),
  declaration: v.picklist(['complete', 'incomplete', 'unknown']),
  backgroundDeclaration: v.picklist(['complete', 'incomplete', 'unknown']),
  undeclared: v.array(words),
  switch: v.picklist(['on', 'weak', 'off', 'unknown']),
  permission: v.picklist(['not-asked', 'granted', 'refused', 'barred', 'unknown']),
  askable: v.picklist(['yes', 'no', 'unknown']),
  level: v.picklist([...ACCESS_LEVELS, 'none', 'unknown']),
  precision: v.picklist(['precise', 'approximate', 'unknown']),
  scope: v.picklist(['origin', 'app', 'unknown']),
};

const message = <Kind extends string, Fields extends v.ObjectEntries>(kind: Kind, fields: Fields) =>
  v.object({ drift, kind: v.literal(kind), ...fields });

/** Messages of a shell. The fixes themselves are checked like those of any source. */
export const FROM_SHELL = {
  /** The shell is there, perhaps again: the page says hello. */
  greet: message('greet', {}),
  hello: message('hello', {
    /** That of the hello of the page. */
    nonce: token,
    version: v.number(),
    /** Goes into every later message of the page: the shell knows by it who speaks. */
    session: token,
    /** Name of the shell, for messages. */
    shell: words,
    /** Confidence of its radii, in percent. */
    confidence: v.picklist([68, 95]),
    abilities: v.optional(v.array(words), []),
    background: v.optional(v.picklist(['none', 'by-level', 'with-sign']), 'none'),
    /** Minimum seconds between fixes. */
    quickest: v.optional(v.pipe(v.number(), v.minValue(0), v.maxValue(3600))),
  }),
  access: message('access', { id: v.optional(id), access: v.record(v.string(), v.unknown()) }),
  done: message('done', { id, result: v.optional(v.unknown()) }),
  fixes: message('fixes', {
    watch: id,
    fixes: v.pipe(v.array(v.record(v.string(), v.unknown())), v.maxLength(MOST)),
    /** Whether they were held back while the app or the device slept. */
    late: v.optional(v.boolean(), false),
  }),
  trouble: message('trouble', { watch: id, failure: words, note: v.optional(words) }),
  gap: message('gap', { watch: id }),
  end: message('end', { watch: id }),
  life: message('life', { event: v.picklist(LIFE_EVENTS) }),
  refused: message('refused', { id: v.optional(id), why: words }),
};

const demand = {
  watch: id,
  maxAge: time,
  accuracy: v.optional(metres),
  every: v.optional(time),
  background: v.optional(v.boolean(), false),
  sign: v.optional(words),
};
const session = v.optional(token);

/** Messages of a page. */
export const FROM_PAGE = {
  hello: message('hello', { versions: v.array(v.number()), nonce: token, origin: words }),
  'read-access': message('read-access', { session, id }),
  ask: message('ask', { session, id, level: v.picklist(ACCESS_LEVELS) }),
  'turn-on-switch': message('turn-on-switch', { session, id, accuracy: v.optional(metres) }),
  'open-settings': message('open-settings', { session, id, page: v.picklist(['app', 'switch']) }),
  'last-fix': message('last-fix', { session, id }),
  'keep-screen-on': message('keep-screen-on', { session, id, on: v.boolean() }),
  watch: message('watch', { session, ...demand }),
  change: message('change', { session, ...demand }),
  rest: message('rest', {
    session,
    watch: id,
    until: time,
    beyond: v.optional(v.pipe(v.number(), v.minValue(0))),
  }),
  stop: message('stop', { session, watch: id }),
  refused: message('refused', { session, id: v.optional(id), why: words }),
};

type Messages<Table extends Record<string, v.GenericSchema>> = v.InferOutput<Table[keyof Table]>;
export type ShellMessage = Messages<typeof FROM_SHELL>;
export type PageMessage = Messages<typeof FROM_PAGE>;
type Table = Record<string, v.ObjectSchema<v.ObjectEntries, undefined>>;

/**
 * A message; one to leave alone, with what is not known of it; or the problem with it. `unknown` names what a later
 * version may have brought: it is no fault.
 */
export type Read<Message> =
  | { readonly state: 'read'; readonly message: Message; readonly unknown: readonly string[] }
  | { readonly state: 'unknown'; readonly unknown: readonly string[] }
  | { readonly state: 'wrong'; readonly reason: string };

export const readShellMessage = (data: unknown): Read<ShellMessage> => read(FROM_SHELL, data);
export const readPageMessage = (data: unknown): Read<PageMessage> => read(FROM_PAGE, data);

/** The messages of what came through a port: one, or a batch; or the problem with the batch. */
export function unpack(data: unknown): readonly unknown[] | string {
  if (!Array.isArray(data)) return [data];
  return data.length <= MOST ? (data as unknown[]) : `a batch has ${data.length} messages, ${MOST} at most`;
}

function read<Own extends Table>(table: Own, data: unknown): Read<Messages<Own>> {
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

/** The values of an access that are right, and what was wrong with the others. */
export function accessIn(given: Readonly<Record<string, unknown>>): {
  readonly access: Readonly<Record<string, unknown>>;
  readonly problems: readonly string[];
  readonly unknown: readonly string[];
} {
  const access: Record<string, unknown> = {};
  const problems: string[] = [];
  const unknown: string[] = [];
  for (const [name, value] of Object.entries(given)) {
    const schema = Object.hasOwn(ACCESS, name) ? ACCESS[name as keyof typeof ACCESS] : undefined;
    if (schema === undefined) {
      unknown.push(`the field ${formatValue(name)} of access`);
      continue;
    }
    const result = v.safeParse(schema, value);
    if (result.success) access[name] = result.output;
    else problems.push(`access: access.${name} should be ${schema.expects}, got ${formatValue(value)}`);
  }
  return { access, problems, unknown };
}

import * as v from 'valibot';
import { formatValue } from '../core/check/number.js';
import { suggestion } from '../core/check/suggest.js';
import { NO_FIX_KINDS } from '../core/fix/no-fix-kinds.js';
import { ACCESS_LEVELS } from '../receiver/access.js';
import { LIFE_EVENTS } from '../receiver/life.js';
import { ABILITIES } from './bridge-abilities.js';

/*
 * The bridge: messages between a page and the native shell around it, over a message port. Plain objects, each with
 * `drift` (the version) and `kind`. docs/bridge.md describes them for makers of shells; this file is the definition.
 */

export const BRIDGE_VERSION = 1;

const id = v.pipe(v.number(), v.integer(), v.minValue(0));
const words = v.pipe(v.string(), v.maxLength(500));
const head = { drift: v.literal(BRIDGE_VERSION) };
const metres = v.optional(v.pipe(v.number(), v.minValue(0.1), v.maxValue(1e6)));

const Access = v.partial(
  v.strictObject({
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
  }),
);

/** Messages of a shell. The fixes themselves are checked like those of any source. */
const FROM_SHELL = {
  hello: v.strictObject({
    ...head,
    kind: v.literal('hello'),
    /** Name of the shell, for messages. */
    shell: words,
    /** Confidence of its radii, in percent. */
    confidence: v.picklist([68, 95]),
    abilities: v.optional(v.array(v.picklist(ABILITIES)), []),
    background: v.optional(v.picklist(['none', 'by-level', 'with-sign']), 'none'),
    /** Minimum seconds between fixes. */
    quickest: v.optional(v.pipe(v.number(), v.minValue(0), v.maxValue(3600))),
  }),
  access: v.strictObject({ ...head, kind: v.literal('access'), id: v.optional(id), access: Access }),
  done: v.strictObject({ ...head, kind: v.literal('done'), id, result: v.optional(v.unknown()) }),
  fixes: v.strictObject({
    ...head,
    kind: v.literal('fixes'),
    watch: id,
    fixes: v.pipe(v.array(v.record(v.string(), v.unknown())), v.maxLength(100_000)),
    /** Whether they were held back while the app or the device slept. */
    late: v.optional(v.boolean(), false),
  }),
  trouble: v.strictObject({
    ...head,
    kind: v.literal('trouble'),
    watch: id,
    failure: v.picklist(NO_FIX_KINDS),
    note: v.optional(words),
  }),
  gap: v.strictObject({ ...head, kind: v.literal('gap'), watch: id }),
  end: v.strictObject({ ...head, kind: v.literal('end'), watch: id }),
  life: v.strictObject({ ...head, kind: v.literal('life'), event: v.picklist(LIFE_EVENTS) }),
  refused: v.strictObject({ ...head, kind: v.literal('refused'), id: v.optional(id), why: words }),
};

const level = v.picklist(ACCESS_LEVELS);

/** Messages of a page. */
const FROM_PAGE = {
  hello: v.strictObject({ ...head, kind: v.literal('hello') }),
  'read-access': v.strictObject({ ...head, kind: v.literal('read-access'), id }),
  ask: v.strictObject({ ...head, kind: v.literal('ask'), id, level }),
  'turn-on-switch': v.strictObject({ ...head, kind: v.literal('turn-on-switch'), id, accuracy: metres }),
  'open-settings': v.strictObject({
    ...head,
    kind: v.literal('open-settings'),
    id,
    page: v.picklist(['app', 'switch']),
  }),
  'last-fix': v.strictObject({ ...head, kind: v.literal('last-fix'), id }),
  'keep-screen-on': v.strictObject({ ...head, kind: v.literal('keep-screen-on'), id, on: v.boolean() }),
  watch: v.strictObject({
    ...head,
    kind: v.literal('watch'),
    watch: id,
    accuracy: metres,
    maxAge: v.pipe(v.number(), v.minValue(0)),
    every: v.optional(v.pipe(v.number(), v.minValue(0))),
    background: v.optional(v.boolean(), false),
    sign: v.optional(words),
  }),
  stop: v.strictObject({ ...head, kind: v.literal('stop'), watch: id }),
  refused: v.strictObject({ ...head, kind: v.literal('refused'), id: v.optional(id), why: words }),
};

type Messages<Table extends Record<string, v.GenericSchema>> = v.InferOutput<Table[keyof Table]>;
export type ShellMessage = Messages<typeof FROM_SHELL>;
export type PageMessage = Messages<typeof FROM_PAGE>;

/** A message, or the problem with it. */
export type Read<Message> =
  { readonly ok: true; readonly message: Message } | { readonly ok: false; readonly reason: string };

export const readShellMessage = (data: unknown): Read<ShellMessage> => read(FROM_SHELL, data);
export const readPageMessage = (data: unknown): Read<PageMessage> => read(FROM_PAGE, data);

function read<Table extends Record<string, v.GenericSchema>>(
  table: Table,
  data: unknown,
): Read<Messages<Table>> {
  if (typeof data !== 'object' || data === null) return refused('a message must be an object');
  const { drift, kind } = data as { drift?: unknown; kind?: unknown };
  if (drift !== BRIDGE_VERSION) {
    return refused(`version ${formatValue(drift)} is not spoken here; drift must be ${BRIDGE_VERSION}`);
  }
  const schema = typeof kind === 'string' && Object.hasOwn(table, kind) ? table[kind] : undefined;
  if (typeof kind !== 'string' || schema === undefined) {
    return refused(`there is no message ${formatValue(kind)}, ${suggestion(kind, Object.keys(table))}`);
  }
  const result = v.safeParse(schema, data, { abortEarly: true });
  if (result.success) return { ok: true, message: result.output as Messages<Table> };
  const [issue] = result.issues;
  const where = v.getDotPath(issue) ?? 'it';
  if (issue.expected === 'never') return refused(`${kind}: there is no field "${where}"`);
  return refused(`${kind}: ${where} should be ${issue.expected ?? 'something else'}, got ${issue.received}`);
}

function refused(reason: string): { ok: false; reason: string } {
  return { ok: false, reason };
}

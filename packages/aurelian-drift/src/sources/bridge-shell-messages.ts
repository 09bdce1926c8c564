import * as v from 'valibot';
import { formatValue } from '../core/check/number.js';
import { ACCESS_LEVELS } from '../receiver/access.js';
import { LIFE_EVENTS } from '../receiver/life.js';
import { id, message, readMessage, token, words, type Messages, type Read } from './bridge-messages.js';
import { MOST } from './bridge-version.js';

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

export type ShellMessage = Messages<typeof FROM_SHELL>;

export const readShellMessage = (data: unknown): Read<ShellMessage> => readMessage(FROM_SHELL, data);

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

import { InputError } from '../check/input-error.js';
import { formatValue } from '../check/number.js';
import { suggestion } from '../check/suggest.js';
import { ROLES, type Holder, type Role } from './rights.js';
import { checkId } from './topics.js';

/** A user of the broker of a party; the user name is the `id`. */
export interface PartyUser extends Holder {
  readonly password: string;
  /** Display name. */
  readonly name?: string;
}

/**
 * Users of a party from a parsed document: `{"party": "vanesk", "users": [{"id": "mirel", "role": "member", "password":
 * "…", "name": "Mirel"}]}`.
 *
 * @throws {InputError} with the path of an invalid part.
 */
export function partyUsersFrom(document: unknown): PartyUser[] {
  const { party, users } = (document ?? {}) as { party?: unknown; users?: unknown };
  if (!Array.isArray(users))
    throw new InputError('not-this-format', 'there is no list of users', { path: ['users'] });
  const ids = new Set<string>();
  return users.map((each: unknown, i) => {
    const { id, role, password, name } = (each ?? {}) as Partial<Record<keyof PartyUser, unknown>>;
    const at = (key: string, error: InputError) => error.at({ path: ['users', i, key] });
    const checked = (key: string, check: () => string) => {
      try {
        return check();
      } catch (error) {
        throw error instanceof InputError ? at(key, error) : error;
      }
    };
    const user = {
      party: checked('party', () => checkId('party', party)),
      id: checked('id', () => checkId('member', id)),
    };
    if (!ROLES.includes(role as Role))
      throw at(
        'role',
        new InputError(
          'bad-value',
          `${user.id} has the role ${formatValue(role)}, ${suggestion(role, ROLES)}`,
        ),
      );
    if (typeof password !== 'string' || password === '')
      throw at('password', new InputError('bad-value', `${user.id} has no password`));
    if (ids.has(user.id)) throw at('id', new InputError('bad-value', `there are two users "${user.id}"`));
    ids.add(user.id);
    return { ...user, role: role as Role, password, ...(typeof name === 'string' && { name }) };
  });
}

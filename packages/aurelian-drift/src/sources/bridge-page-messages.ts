import * as v from 'valibot';
import { ACCESS_LEVELS } from '../receiver/access.js';
import {
  id,
  message,
  metres,
  readMessage,
  time,
  token,
  words,
  type Messages,
  type Read,
} from './bridge-messages.js';

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

export type PageMessage = Messages<typeof FROM_PAGE>;

export const readPageMessage = (data: unknown): Read<PageMessage> => readMessage(FROM_PAGE, data);

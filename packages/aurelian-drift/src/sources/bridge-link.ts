import { limited } from '../receiver/limited.js';
import type { Clock } from '../receiver/clock.js';
import type { Warn } from '../live/warn.js';
import { ABILITIES } from './bridge-abilities.js';
import { unpack } from './bridge-messages.js';
import type { BridgePort } from './bridge-ports.js';
import { readShellMessage, type ShellMessage } from './bridge-shell-messages.js';
import { BRIDGE_VERSION } from './bridge-version.js';

/** What a shell says of itself. */
export type Hello = Extract<ShellMessage, { kind: 'hello' }>;
/** A message of a session. */
export type SessionMessage = Exclude<ShellMessage, { kind: 'greet' | 'hello' | 'refused' | 'done' }>;
type Message = Record<string, unknown> & { readonly kind: string };

/** What is done with what comes over the link. */
export interface LinkUser {
  /** A session has begun; `again`: after another one, whose watches and answers are lost. */
  opened(again: boolean): void;
  take(message: SessionMessage): void;
  /** The far end has closed the port. */
  closed(): void;
}

/** Options of a link. */
export interface LinkOptions {
  /** Seconds for a hello, and for an answer that needs no user. */
  readonly patience: number;
  readonly clock: Clock;
  readonly warn: Warn;
}

/** A hello of the page. */
interface Greeting {
  /** The shell answers with it. */
  nonce: string;
  /** Resolves with the answer, or when none came in time. */
  readonly hello: Promise<unknown>;
  /** Whether the answer is waited for. */
  pending: boolean;
  /** Whether it has come: a nonce counts once. */
  answered: boolean;
  /** When it was said, milliseconds since 1970 UTC. */
  readonly at: number;
  end(): void;
}

/** Notices about one shell: a broken one must not fill the console. */
const MOST_NOTICES = 50;

/**
 * The page's end of a bridge: the port, the greeting, the session, questions and their answers. A wrong message is
 * refused, an unknown one left alone, and every question ends.
 */
export class BridgeLink {
  readonly #options: LinkOptions;
  readonly #user: LinkUser;
  readonly #calls = new Map<number, (result: unknown) => void>();
  readonly #noticed = new Set<string>();
  #port: { readonly port: BridgePort; readonly detach: () => void } | undefined;
  #greeting: Greeting | undefined;
  #shell: Hello | undefined;
  #count = 0;
  #refused = 0;
  #lastRefusal: string | undefined;

  constructor(options: LinkOptions, user: LinkUser) {
    this.#options = options;
    this.#user = user;
  }

  /** The shell of the session; `undefined` before there is one. */
  get shell(): Hello | undefined {
    return this.#shell;
  }

  /** Resolves when the greeting under way is over. */
  get greeted(): Promise<unknown> | undefined {
    return this.#greeting?.hello;
  }

  get name(): string {
    return this.#shell === undefined ? 'the shell' : `the shell "${this.#shell.shell}"`;
  }

  get refusals(): { readonly count: number; readonly last: string | undefined } {
    return { count: this.#refused, last: this.#lastRefusal };
  }

  /** A number that was not used before, for a question or a watch. */
  newId(): number {
    return ++this.#count;
  }

  /** Speaks over another port from now on. */
  use(port: BridgePort): void {
    this.#port?.detach();
    // A port that cannot remove a listener keeps one without effect.
    const receive = ({ data }: { data: unknown }) => {
      if (this.#port?.port === port) this.#receiveAll(data);
    };
    // A simple port may call every listener with its messages.
    const closed = ({ data }: { data: unknown }) => {
      if (data === undefined && this.#port?.port === port) this.#closed();
    };
    port.addEventListener('message', receive);
    port.addEventListener('close', closed);
    this.#port = {
      port,
      detach() {
        port.removeEventListener?.('message', receive);
        port.removeEventListener?.('close', closed);
      },
    };
    port.start?.();
    this.#greet();
  }

  /** Lets go of the port; what was asked gets no answer. */
  end(): void {
    this.#greeting?.end();
    this.#endCalls();
    this.#port?.detach();
    this.#port = undefined;
  }

  /** Sends a message of the session; before there is one nothing is sent. */
  send(message: Message): void {
    if (this.#shell !== undefined) this.#post({ ...message, session: this.#shell.session });
  }

  /** Resolves with the answer; with `undefined` when none comes in time, or none can come. */
  call(message: Message, seconds = this.#options.patience): Promise<unknown> {
    if (this.#port === undefined) return Promise.resolve(undefined);
    const id = this.newId();
    const answer = new Promise<unknown>((resolve) => {
      this.#calls.set(id, resolve);
      this.send({ ...message, id });
    });
    return limited(this.#options.clock, seconds, answer, () => {
      this.#calls.delete(id);
      this.#options.warn(`${this.name} did not answer ${message.kind} within ${seconds} s`);
      return undefined;
    });
  }

  /** The answer to a question. One that comes late, or twice, changes nothing. */
  answer(id: number, result: unknown): void {
    const settle = this.#calls.get(id);
    if (settle === undefined && id > this.#count) this.refuse(`there is no open question ${id}`);
    this.#calls.delete(id);
    settle?.(result);
  }

  /** Tells the shell and the developer what was wrong. */
  refuse(reason: string): void {
    this.#refused++;
    this.#lastRefusal = reason;
    this.#options.warn(`${this.name} broke the bridge’s rules: ${reason}`);
    this.send({ kind: 'refused', why: reason.slice(0, 500) });
  }

  /** What a later version may have brought is told once, and is no fault. */
  notice(what: string): void {
    if (this.#noticed.has(what) || this.#noticed.size >= MOST_NOTICES) return;
    this.#noticed.add(what);
    this.#options.warn(`${this.name}: ${what}`);
  }

  /** Says hello; without an answer in time there is no support, until one comes late. */
  #greet(): void {
    const greeting = this.#greeting?.pending === true ? this.#greeting : this.#newGreeting();
    this.#greeting = greeting;
    greeting.nonce = randomToken(); // the last hello counts, for both sides
    const origin = (globalThis as { readonly location?: { readonly origin?: string } }).location?.origin;
    this.#post({ kind: 'hello', versions: [BRIDGE_VERSION], nonce: greeting.nonce, origin: origin ?? '' });
  }

  #newGreeting(): Greeting {
    let settle = () => {};
    const hello = new Promise<void>((resolve) => (settle = resolve));
    const greeting: Greeting = {
      nonce: '',
      hello,
      pending: true,
      answered: false,
      at: this.#options.clock.now(),
      end() {
        cancel();
        greeting.pending = false;
        settle();
      },
    };
    const cancel = this.#options.clock.after(this.#options.patience, () => {
      this.#options.warn(
        `the shell did not say hello within ${this.#options.patience} s: there is no positioning without it`,
      );
      greeting.end();
    });
    return greeting;
  }

  #hello(hello: Hello): void {
    if (hello.nonce !== this.#greeting?.nonce) {
      this.refuse('hello: the nonce is not that of this page');
      return;
    }
    if (this.#greeting.answered) {
      if (hello.session === this.#shell?.session) return; // the same once more
      this.refuse('hello: its nonce has been used; a shell that begins another session sends greet');
      // It may have restarted all the same; not more often than a hello is waited for.
      if (this.#options.clock.now() - this.#greeting.at >= 1000 * this.#options.patience) this.#greet();
      return;
    }
    if (hello.version !== BRIDGE_VERSION) {
      this.refuse(`hello: version ${hello.version} is not spoken here, only ${BRIDGE_VERSION}`);
      this.#greeting.end();
      return;
    }
    for (const ability of hello.abilities)
      if (!(ABILITIES as readonly string[]).includes(ability))
        this.notice(`the ability "${ability.slice(0, 40)}" is not known here`);
    const isNew = hello.session !== this.#shell?.session;
    const again = isNew && this.#shell !== undefined;
    this.#shell = hello;
    this.#greeting.answered = true;
    this.#greeting.end();
    if (again) this.#endCalls(); // their answers are lost with the old session
    if (isNew) this.#user.opened(again);
  }

  #closed(): void {
    this.#options.warn(
      `${this.name} has closed its port; positions come again when it hands over another one`,
    );
    this.end();
    this.#user.closed();
  }

  #endCalls(): void {
    for (const [id, settle] of [...this.#calls]) {
      this.#calls.delete(id);
      settle(undefined);
    }
  }

  #post(message: Message): void {
    try {
      this.#port?.port.postMessage({ drift: BRIDGE_VERSION, ...message });
    } catch (error) {
      this.#options.warn(`${this.name} took no message: ${String(error)}`, error);
    }
  }

  #receiveAll(data: unknown): void {
    const messages = unpack(data);
    if (typeof messages === 'string') this.refuse(messages);
    else for (const message of messages) this.#receive(message);
  }

  #receive(data: unknown): void {
    if (this.#port === undefined) return; // it was closed by a message before this one
    const read = readShellMessage(data);
    if (read.state === 'wrong') {
      this.refuse(read.reason);
      // An invalid answer is an answer too: the caller must not wait for another.
      const { id } = (data ?? {}) as { id?: unknown };
      if (typeof id === 'number' && this.#calls.has(id)) this.answer(id, undefined);
      return;
    }
    for (const unknown of read.unknown) this.notice(`${unknown} is not known here`);
    if (read.state === 'read') this.#take(read.message);
  }

  #take(message: ShellMessage): void {
    if (message.kind === 'greet') this.#greet();
    else if (message.kind === 'hello') this.#hello(message);
    else if (this.#shell === undefined) this.refuse(`${message.kind} came before hello`);
    else if (message.kind === 'done') this.answer(message.id, message.result);
    else if (message.kind === 'refused') {
      this.#options.warn(`${this.name} refused a message: ${message.why}`);
      if (message.id !== undefined) this.answer(message.id, undefined);
    } else this.#user.take(message);
  }
}

/** A text that nobody else knows. */
function randomToken(): string {
  const { crypto } = globalThis as { readonly crypto?: Partial<Crypto> };
  const bytes = crypto?.getRandomValues?.(new Uint8Array(16));
  // An engine without a source of randomness has no frames that could pose as the shell either.
  const parts = bytes ?? Array.from({ length: 16 }, () => Math.floor(Math.random() * 256));
  return Array.from(parts, (part) => part.toString(16).padStart(2, '0')).join('');
}

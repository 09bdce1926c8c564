import { KEPT_NAMES } from '../core/check/kept-names.js';

/** Beginning of the keys under which a page stores that it follows; its own name comes after it. */
const RUNNING = KEPT_NAMES.running;

/** Milliseconds within which a page that runs answers. */
const ANSWER_WITHIN = 400;

/**
 * The run of this page, over all sources in it. A page that follows leaves a note for the next page of its tab, and
 * answers when it is asked for by the name of the note: a note whose page does not answer is from a page that the
 * system ended. Notes of pages that run (a frame in this one, the page that this tab was copied from) are left alone.
 */
export class PageRun {
  readonly #name = `${RUNNING}${Math.random().toString(36).slice(2)}`;
  readonly #users = new Set<object>();
  readonly #killed = killedBefore();
  #channel: BroadcastChannel | undefined;
  #away = false;

  /** Time of the last sign of life of an earlier page that was killed, milliseconds since 1970 UTC. */
  get killed(): Promise<number | undefined> {
    return this.#killed;
  }

  /** A source begins to follow, or ends. */
  set(user: object, running: boolean): void {
    if (running) this.#users.add(user);
    else this.#users.delete(user);
    this.note();
  }

  /** Notes that the page is alive, if it follows. */
  note(): void {
    if (this.#away || this.#users.size === 0) {
      this.#erase();
      return;
    }
    write(this.#name, String(Date.now()));
    if (this.#channel !== undefined) return;
    const channel = openChannel();
    this.#channel = channel;
    channel?.addEventListener('message', ({ data }) => {
      if (data === `${this.#name}?`) channel.postMessage(this.#name);
    });
  }

  /** The page ends, or is put away for going back: a note would be taken for a kill. */
  leave(): void {
    this.#away = true;
    this.#erase();
  }

  /** The page is shown again. */
  comeBack(): void {
    this.#away = false;
    this.note();
  }

  #erase(): void {
    write(this.#name, undefined);
    this.#channel?.close(); // an open one keeps a page from being put away
    this.#channel = undefined;
  }
}

async function killedBefore(): Promise<number | undefined> {
  const found = notes();
  if (found.length === 0) return undefined;
  const alive = await pagesThatAnswer(found.map(({ name }) => name));
  const killed = found.filter(({ name }) => !alive.has(name));
  for (const { name } of killed) write(name, undefined);
  return killed.length === 0 ? undefined : Math.max(...killed.map(({ time }) => time));
}

/** Notes of other pages of this tab. */
function notes(): { readonly name: string; readonly time: number }[] {
  try {
    return Object.keys(sessionStorage)
      .filter((name) => name.startsWith(RUNNING))
      .map((name) => ({ name, time: Number(sessionStorage.getItem(name)) }))
      .filter(({ time }) => time > 0);
  } catch {
    return []; // storage is blocked here
  }
}

/** Names of the pages among these that run. */
async function pagesThatAnswer(names: readonly string[]): Promise<ReadonlySet<string>> {
  const alive = new Set<string>();
  const channel = openChannel();
  if (channel === undefined) return alive;
  channel.addEventListener('message', ({ data }) => typeof data === 'string' && alive.add(data));
  for (const name of names) channel.postMessage(`${name}?`);
  await new Promise((resolve) => setTimeout(resolve, ANSWER_WITHIN));
  channel.close();
  return alive;
}

function openChannel(): BroadcastChannel | undefined {
  try {
    return new BroadcastChannel('aurelian-drift');
  } catch {
    return undefined; // no such interface, or not for this page
  }
}

function write(name: string, text: string | undefined): void {
  try {
    if (text === undefined) sessionStorage.removeItem(name);
    else sessionStorage.setItem(name, text);
  } catch {
    // storage is blocked here, and a kill will not be noticed
  }
}

import { openDB, type DBSchema, type IDBPDatabase } from 'idb';
import { ClosedError } from '../core/check/closed-error.js';
import { KEPT_NAMES } from '../core/check/kept-names.js';
import { InputError } from '../core/check/input-error.js';
import type { Shelf, ShelfRecord } from '../recorder/shelf.js';
import { shelfStore } from '../recorder/shelf-store.js';
import type { TrailStore } from '../recorder/trail-store.js';
import type { AbortSignalLike } from '../live/abort-signal.js';
import { consoleWarn, type Warn } from '../live/warn.js';

/** Options of `browserStore`. */
export interface BrowserStoreOptions {
  /** Name of the database, and of the locks. Default `aurelian-drift`. */
  readonly name?: string;
  /** Wait for the disk with every fix: stored data then also survives a loss of power. Default false. */
  readonly durable?: boolean;
  /** Receives messages for the developer. Default: the console. */
  readonly warn?: Warn;
  /** Closes it when it aborts. */
  readonly signal?: AbortSignalLike;
}

const STORES = ['heads', 'records', 'aside'] as const;
const VERSION = 1;

interface Schema extends DBSchema {
  heads: { key: string; value: unknown };
  records: { key: [id: string, number: number]; value: Uint8Array };
  aside: { key: [id: string, number: number]; value: Uint8Array };
}

/** A store of trails in the browser (IndexedDB), shared by the tabs of an origin; one tab at a time writes a trail. */
export function browserStore(options: BrowserStoreOptions = {}): TrailStore {
  const { name = KEPT_NAMES.database, durable = false, warn = consoleWarn, signal } = options;
  return shelfStore(new BrowserShelf(name, durable), { warn, signal });
}

class BrowserShelf implements Shelf {
  readonly #name: string;
  readonly #durability: IDBTransactionDurability;
  readonly #lettingGo = new Set<Promise<void>>();
  #open: Promise<IDBPDatabase<Schema>> | undefined;
  #closed = false;

  constructor(name: string, durable: boolean) {
    this.#name = name;
    this.#durability = durable ? 'strict' : 'relaxed';
  }

  async heads() {
    const transaction = await this.#transaction('heads');
    const [ids, heads] = await Promise.all([transaction.store.getAllKeys(), transaction.store.getAll()]);
    return ids.map((id, i) => ({ id, head: heads[i] }));
  }

  async head(id: string) {
    return (await this.#transaction('heads')).store.get(id);
  }

  async records(id: string) {
    const transaction = await this.#transaction('records');
    const range = rangeOf(id);
    const [keys, values] = await Promise.all([
      transaction.store.getAllKeys(range),
      transaction.store.getAll(range),
    ]);
    return keys.map(([, number], i) => ({ number, bytes: bytesOf(values[i]) }));
  }

  async write(id: string, head: string, records: readonly ShelfRecord[]) {
    const transaction = await this.#change(['heads', 'records'], this.#durability);
    const [heads, own] = [transaction.objectStore('heads'), transaction.objectStore('records')];
    await Promise.all([
      heads.put(head, id),
      ...records.map(({ number, bytes }) => own.put(bytes, [id, number])),
      transaction.done,
    ]);
  }

  async setAside(id: string, numbers: readonly number[]) {
    const transaction = await this.#change(['records', 'aside']);
    for (const number of numbers) {
      const bytes = await transaction.objectStore('records').get([id, number]);
      if (bytes !== undefined) await transaction.objectStore('aside').put(bytes, [id, number]);
      await transaction.objectStore('records').delete([id, number]);
    }
    await transaction.done;
  }

  async remove(id: string) {
    const transaction = await this.#change(STORES);
    await Promise.all([
      transaction.objectStore('heads').delete(id),
      transaction.objectStore('records').delete(rangeOf(id)),
      transaction.objectStore('aside').delete(rangeOf(id)),
      transaction.done,
    ]);
  }

  async erase() {
    const transaction = await this.#change(STORES);
    await Promise.all([...STORES.map((each) => transaction.objectStore(each).clear()), transaction.done]);
  }

  async close() {
    this.#closed = true;
    const opened = this.#open;
    this.#open = undefined;
    (await opened?.catch(() => undefined))?.close();
    await Promise.all(this.#lettingGo);
  }

  /** A lock of the origin, which ends with the tab in any case. */
  async claim(id: string): Promise<(() => void) | undefined> {
    // Without a secure context there are no locks, and no positioning either.
    if (!('locks' in navigator)) return () => {};
    await Promise.all(this.#lettingGo); // a lock becomes free only some time after its release
    return new Promise((resolve, reject) => {
      const held: Promise<void> = navigator.locks
        .request(`${this.#name}/${id}`, { ifAvailable: true }, (lock) => {
          if (lock === null) {
            resolve(undefined);
            return undefined;
          }
          return new Promise<void>((release) =>
            resolve(() => {
              this.#lettingGo.add(held);
              release();
            }),
          );
        })
        .then(() => void this.#lettingGo.delete(held));
      held.catch(reject);
    });
  }

  #transaction<Store extends (typeof STORES)[number]>(store: Store) {
    return this.#begun((database) => database.transaction(store));
  }

  #change(stores: readonly (typeof STORES)[number][], durability: IDBTransactionDurability = 'default') {
    return this.#begun((database) => database.transaction([...stores], 'readwrite', { durability }));
  }

  /** Begins a transaction. A database that was closed meanwhile, by another tab or by the browser, is opened again. */
  async #begun<Transaction>(begin: (database: IDBPDatabase<Schema>) => Transaction): Promise<Transaction> {
    const opened = this.#database();
    try {
      return begin(await opened);
    } catch (error) {
      if ((error as Error).name !== 'InvalidStateError') throw error;
      if (this.#open === opened) this.#open = undefined;
      return begin(await this.#database());
    }
  }

  #database(): Promise<IDBPDatabase<Schema>> {
    if (this.#closed) return Promise.reject(new ClosedError('the store'));
    if (this.#open !== undefined) return this.#open;
    const opened = this.#openAny();
    this.#open = opened;
    opened.catch(() => {
      if (this.#open === opened) this.#open = undefined; // the next call tries again
    });
    return opened;
  }

  async #openAny(): Promise<IDBPDatabase<Schema>> {
    const forget = () => (this.#open = undefined);
    const callbacks = {
      // Another tab deletes the database, or has a newer version of the app: it is opened again when needed.
      blocking: (_current: number, _blocked: number | null, event: IDBVersionChangeEvent) => {
        forget();
        (event.target as IDBDatabase).close();
      },
      terminated: forget,
    };
    try {
      return await openDB<Schema>(this.#name, VERSION, {
        ...callbacks,
        upgrade(database) {
          for (const name of STORES) database.createObjectStore(name);
        },
      });
    } catch (error) {
      if ((error as Error).name !== 'VersionError') throw error;
    }
    // A newer version of the app was here: whatever it added, what this one needs may still be there.
    const newer = await openDB<Schema>(this.#name, undefined, callbacks);
    if (STORES.every((name) => newer.objectStoreNames.contains(name))) return newer;
    newer.close();
    const reason = `the database "${this.#name}" belongs to a newer version of the app, with another layout`;
    throw new InputError('bad-value', reason, {}, 'Load the page again');
  }
}

function rangeOf(id: string): IDBKeyRange {
  return IDBKeyRange.bound([id, 0], [id, Infinity]);
}

/** What was kept as bytes; anything else is damaged, and is read as no record at all. */
function bytesOf(value: unknown): Uint8Array {
  return value instanceof Uint8Array ? value : new Uint8Array();
}

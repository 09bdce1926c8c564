import { openDB, type DBSchema, type IDBPDatabase } from 'idb';
import type { Shelf, TrailHead } from '../recorder/shelf.js';
import { shelfStore } from '../recorder/shelf-store.js';
import type { TrailStore } from '../recorder/trail-store.js';
import { consoleWarn, type Warn } from '../live/warn.js';

export interface BrowserStoreOptions {
  /** Of the database, and of the locks. Default `aurelian-drift`. */
  readonly name?: string;
  /** Waits for the disk itself with every fix: what is kept survives a loss of power too. Default false. */
  readonly durable?: boolean;
  readonly warn?: Warn;
}

interface Schema extends DBSchema {
  heads: { key: string; value: unknown };
  records: { key: [id: string, number: number]; value: Uint8Array };
  aside: { key: [id: string, number: number]; value: Uint8Array };
}

/** A store of trails in the browser (IndexedDB), shared by the tabs of an origin; one tab at a time writes a trail. */
export function browserStore(options: BrowserStoreOptions = {}): TrailStore {
  const { name = 'aurelian-drift', durable = false, warn = consoleWarn } = options;
  return shelfStore(new BrowserShelf(name, durable), warn);
}

class BrowserShelf implements Shelf {
  readonly #name: string;
  readonly #durability: IDBTransactionDurability;
  readonly #lettingGo = new Set<Promise<void>>();
  #open: Promise<IDBPDatabase<Schema>> | undefined;

  constructor(name: string, durable: boolean) {
    this.#name = name;
    this.#durability = durable ? 'strict' : 'relaxed';
  }

  async heads() {
    const transaction = (await this.#database()).transaction('heads');
    const [ids, heads] = await Promise.all([transaction.store.getAllKeys(), transaction.store.getAll()]);
    return ids.map((id, i) => ({ id, head: heads[i] }));
  }

  async head(id: string) {
    return (await this.#database()).get('heads', id);
  }

  async records(id: string) {
    const transaction = (await this.#database()).transaction('records');
    const range = rangeOf(id);
    const [keys, values] = await Promise.all([
      transaction.store.getAllKeys(range),
      transaction.store.getAll(range),
    ]);
    return keys.map(([, number], i) => ({ number, bytes: bytesOf(values[i]) }));
  }

  async write(head: TrailHead, records: Parameters<Shelf['write']>[1]) {
    const database = await this.#database();
    const transaction = database.transaction(['heads', 'records'], 'readwrite', {
      durability: this.#durability,
    });
    const [heads, own] = [transaction.objectStore('heads'), transaction.objectStore('records')];
    await Promise.all([
      heads.put(head, head.id),
      ...records.map(({ number, bytes }) => own.put(bytes, [head.id, number])),
      transaction.done,
    ]);
  }

  async setAside(id: string, numbers: readonly number[]) {
    const transaction = (await this.#database()).transaction(['records', 'aside'], 'readwrite');
    for (const number of numbers) {
      const bytes = await transaction.objectStore('records').get([id, number]);
      if (bytes !== undefined) await transaction.objectStore('aside').put(bytes, [id, number]);
      await transaction.objectStore('records').delete([id, number]);
    }
    await transaction.done;
  }

  async remove(id: string) {
    const transaction = (await this.#database()).transaction(['heads', 'records', 'aside'], 'readwrite');
    await Promise.all([
      transaction.objectStore('heads').delete(id),
      transaction.objectStore('records').delete(rangeOf(id)),
      transaction.objectStore('aside').delete(rangeOf(id)),
      transaction.done,
    ]);
  }

  async erase() {
    const transaction = (await this.#database()).transaction(['heads', 'records', 'aside'], 'readwrite');
    await Promise.all([
      ...(['heads', 'records', 'aside'] as const).map((each) => transaction.objectStore(each).clear()),
      transaction.done,
    ]);
  }

  /** A lock of the origin's, which ends with the tab however that ends. */
  async claim(id: string): Promise<(() => void) | undefined> {
    // Without a secure context there are no locks; nor is there any positioning.
    if (!('locks' in navigator)) return () => {};
    await Promise.all(this.#lettingGo); // a lock is free only some time after it was let go
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

  #database(): Promise<IDBPDatabase<Schema>> {
    this.#open ??= openDB<Schema>(this.#name, 1, {
      upgrade(database) {
        for (const name of ['heads', 'records', 'aside'] as const) database.createObjectStore(name);
      },
      // Another tab has a newer version of the app, or the browser took the database away: it is opened again when needed.
      blocking: (_current, _blocked, event) => (event.target as IDBDatabase).close(),
      terminated: () => (this.#open = undefined),
    });
    return this.#open.catch((error: unknown) => {
      this.#open = undefined;
      throw error;
    });
  }
}

function rangeOf(id: string): IDBKeyRange {
  return IDBKeyRange.bound([id, 0], [id, Infinity]);
}

/** What was kept as bytes; anything else is damaged, and is read as no record at all. */
function bytesOf(value: unknown): Uint8Array {
  return value instanceof Uint8Array ? value : new Uint8Array();
}

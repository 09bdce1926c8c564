import type { Shelf, ShelfRecord } from './shelf.js';
import { shelfStore } from './shelf-store.js';
import type { TrailStore } from './trail-store.js';

/** Stores trails in memory, as long as the program runs. */
export function memoryStore(): TrailStore {
  return shelfStore(memoryShelf());
}

function memoryShelf(): Shelf {
  const heads = new Map<string, string>();
  const records = new Map<string, ShelfRecord[]>();
  const claims = new Set<string>();
  const nothing = Promise.resolve();
  return {
    heads: () => Promise.resolve([...heads].map(([id, head]) => ({ id, head }))),
    head: (id) => Promise.resolve(heads.get(id)),
    records: (id) => Promise.resolve(records.get(id) ?? []),
    write(id, head, more) {
      heads.set(id, head);
      const own = records.get(id) ?? [];
      own.push(...more);
      records.set(id, own);
      return nothing;
    },
    setAside(id, numbers) {
      records.set(
        id,
        (records.get(id) ?? []).filter(({ number }) => !numbers.includes(number)),
      );
      return nothing;
    },
    remove(id) {
      heads.delete(id);
      records.delete(id);
      return nothing;
    },
    erase() {
      heads.clear();
      records.clear();
      return nothing;
    },
    close: () => nothing,
    claim(id) {
      if (claims.has(id)) return Promise.resolve(undefined);
      claims.add(id);
      return Promise.resolve(() => void claims.delete(id));
    },
  };
}

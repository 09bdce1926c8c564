import type { TileName } from '../core/scene/tile-cover.js';

/** Requests that are open at a time: browsers open about as many to one host. */
const AT_ONCE = 6;

interface Request {
  readonly name: TileName;
  readonly cancel: AbortController;
}

/**
 * Requests for tiles, a few at a time. Those that are no longer wanted are taken back, whether they wait or are under
 * way.
 */
export class TileRequests {
  readonly #load: (name: TileName, signal: AbortSignal) => Promise<void>;
  readonly #waiting = new Map<string, TileName>();
  readonly #open = new Map<string, Request>();

  /** @param load loads a tile; must not reject. */
  constructor(load: (name: TileName, signal: AbortSignal) => Promise<void>) {
    this.#load = load;
  }

  add(name: TileName): void {
    const key = name.join('/');
    if (this.#waiting.has(key) || this.#open.has(key)) return;
    this.#waiting.set(key, name);
  }

  /** Takes back the tiles that are not wanted, and starts the others, in an order: the smallest first. */
  run(wanted: (name: TileName) => boolean, order: (name: TileName) => number): readonly TileName[] {
    const dropped: TileName[] = [];
    for (const [key, name] of this.#waiting) {
      if (wanted(name)) continue;
      this.#waiting.delete(key);
      dropped.push(name);
    }
    for (const [key, { name, cancel }] of this.#open) {
      if (wanted(name)) continue;
      this.#open.delete(key);
      cancel.abort();
      dropped.push(name);
    }
    const sorted = [...this.#waiting].sort((a, b) => order(a[1]) - order(b[1]));
    this.#waiting.clear();
    for (const [key, name] of sorted) this.#waiting.set(key, name);
    this.#next();
    return dropped;
  }

  close(): void {
    this.#waiting.clear();
    for (const { cancel } of this.#open.values()) cancel.abort();
    this.#open.clear();
  }

  #next(): void {
    for (const [key, name] of this.#waiting) {
      if (this.#open.size >= AT_ONCE) return;
      this.#waiting.delete(key);
      const request = { name, cancel: new AbortController() };
      this.#open.set(key, request);
      void this.#load(name, request.cancel.signal).then(() => {
        if (this.#open.get(key) === request) this.#open.delete(key);
        this.#next();
      });
    }
  }
}

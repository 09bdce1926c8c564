import Flatbush from 'flatbush';
import { plainBoxes, type Bounds } from '../geodesy/bounds.js';
import type { Position } from '../geodesy/position.js';
import { widenedBy } from './bounds.js';
import type { Plot } from './field.js';
import type { Around, FenceSearch, FenceIndex } from './fence-search.js';
import { Surrounding } from './surrounding.js';

/**
 * Number of additions that are searched one by one. When there are more, and more than a share of the tree, the tree is
 * built again.
 */
const LOOSE = 256;
const SHARE = 0.02;

interface TreeEntry<Item> {
  readonly item: Item;
  readonly bounds: Bounds;
  /** Removed or replaced since the tree was built. */
  gone: boolean;
}

/**
 * Index for thousands of fences: a packed tree of their boxes, and a short list of later additions. Adding a few to
 * many does not rebuild the tree.
 */
export function fenceIndex(): FenceIndex {
  return new FenceTree<Plot>() as FenceIndex;
}

class FenceTree<Item> implements FenceSearch<Item> {
  readonly #entries = new Map<Item, TreeEntry<Item>>();
  /** Fence index of each tree box. */
  #packed: TreeEntry<Item>[] = [];
  #tree: Flatbush | undefined;
  #loose = new Set<TreeEntry<Item>>();
  /** Number of additions and removals. */
  #edition = 0;

  add(bounds: Bounds, item: Item): void {
    const entry = { item, bounds, gone: false };
    this.#edition++;
    this.#entries.set(item, entry);
    this.#loose.add(entry);
  }

  remove(item: Item): void {
    const entry = this.#entries.get(item);
    if (entry === undefined) return;
    this.#edition++;
    entry.gone = true;
    this.#entries.delete(item);
    this.#loose.delete(entry);
  }

  near(at: Position, metres: number): Item[] {
    if (this.#loose.size > Math.max(LOOSE, SHARE * this.#packed.length)) this.#pack();
    const box = widenedBy([at.lon, at.lat, at.lon, at.lat], metres);
    const found: Item[] = [];
    for (const { item, bounds } of this.#loose) if (meets(bounds, box)) found.push(item);
    for (const [west, south, east, north] of plainBoxes(box)) {
      for (const i of this.#tree?.search(west, south, east, north) ?? []) {
        const { item, gone } = this.#packed[i] as TreeEntry<Item>;
        if (!gone) found.push(item);
      }
    }
    return found;
  }

  around(): Around<Item> {
    const surrounding = new Surrounding<Item>(this.near.bind(this), () => this.#edition);
    return surrounding.near.bind(surrounding);
  }

  #pack(): void {
    this.#loose.clear();
    // A box across the date line is entered as two.
    const boxes = [...this.#entries.values()].flatMap((entry) =>
      plainBoxes(entry.bounds).map((box) => ({ entry, box })),
    );
    this.#packed = boxes.map(({ entry }) => entry);
    this.#tree = new Flatbush(boxes.length);
    for (const { box } of boxes) this.#tree.add(...box);
    this.#tree.finish();
  }
}

function meets(a: Bounds, b: Bounds): boolean {
  return plainBoxes(a).some(([w1, s1, e1, n1]) =>
    plainBoxes(b).some(([w2, s2, e2, n2]) => w1 <= e2 && w2 <= e1 && s1 <= n2 && s2 <= n1),
  );
}

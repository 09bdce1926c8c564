import { KEPT_NAMES } from '../core/check/kept-names.js';
import { keptText, readKept, type KeptKind } from '../core/check/kept-text.js';
import { PLACE, objectOf, refuseDamaged, within } from '../core/check/shape.js';
import type { Position } from '../core/geodesy/position.js';
import { MIN_ZOOM, MAX_ZOOM } from '../core/scene/camera.js';
import type { Warn } from '../live/warn.js';

/** Stored view. It is not a fix, and no fix can be made from it. */
export interface KeptView {
  readonly centre: Position;
  readonly zoom: number;
  readonly turn: number;
}

/** The part of the storage of the platform that is needed. */
export type ViewStorage = Pick<Storage, 'getItem' | 'setItem' | 'removeItem'>;

const KIND: KeptKind = { kind: 'map-view', version: 1, what: 'the stored view of a map' };
const LAYOUT = objectOf({
  centre: objectOf(PLACE),
  zoom: within(MIN_ZOOM, MAX_ZOOM),
  turn: within(0, 360),
});

/** Stores the view that the user chose, under a name, between visits. */
export class ViewMemory {
  readonly name: string;
  readonly #key: string;
  readonly #storage: ViewStorage | undefined;
  readonly #warn: Warn;

  constructor(name: string, storage: ViewStorage | undefined, warn: Warn) {
    this.name = name;
    this.#key = `${KEPT_NAMES.views}${name}`;
    this.#storage = storage;
    this.#warn = warn;
  }

  /** The stored view; damaged data is removed, with one warning. */
  read(): KeptView | undefined {
    let text: string | undefined;
    try {
      text = this.#storage?.getItem(this.#key) ?? undefined;
    } catch (cause) {
      this.#warn(`the map's view cannot be read here: ${String(cause)}`);
    }
    if (text === undefined) return undefined;
    try {
      const { value } = readKept(KIND, text);
      refuseDamaged(value, LAYOUT, 'this is not a valid view of a map');
      return value as KeptView;
    } catch (error) {
      this.#warn(`the stored view of the map "${this.#key}" is ignored: ${(error as Error).message}`);
      this.forget();
      return undefined;
    }
  }

  keep({ centre, zoom, turn }: KeptView): void {
    try {
      this.#storage?.setItem(
        this.#key,
        keptText(KIND, { centre: { lat: centre.lat, lon: centre.lon }, zoom, turn }),
      );
    } catch {
      // full or barred: the view is a convenience, and the next visit starts anew
    }
  }

  forget(): void {
    this.#storage?.removeItem(this.#key);
  }
}

/** The local storage of the page; `undefined` where it is blocked. */
export function localStorageOf(): Storage | undefined {
  try {
    return localStorage;
  } catch {
    return undefined;
  }
}

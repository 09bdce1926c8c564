import * as v from 'valibot';
import type { Position } from '../core/geodesy/position.js';
import { LEAST_ZOOM, MOST_ZOOM } from '../core/scene/camera.js';
import type { Warn } from '../live/warn.js';

/** What is kept of a view. It is no fix, and none can be made of it. */
export interface KeptView {
  readonly centre: Position;
  readonly zoom: number;
  readonly turn: number;
}

/** As much of the platform's storage as is needed. */
export type ViewStorage = Pick<Storage, 'getItem' | 'setItem' | 'removeItem'>;

const Kept = v.strictObject({
  centre: v.strictObject({
    lat: v.pipe(v.number(), v.minValue(-90), v.maxValue(90)),
    lon: v.pipe(v.number(), v.minValue(-180), v.maxValue(180)),
  }),
  zoom: v.pipe(v.number(), v.minValue(LEAST_ZOOM), v.maxValue(MOST_ZOOM)),
  turn: v.pipe(v.number(), v.minValue(0), v.maxValue(360)),
});

/** Keeps the view that a hand has chosen, under a name, from visit to visit. */
export class ViewMemory {
  readonly #key: string;
  readonly #storage: ViewStorage | undefined;
  readonly #warn: Warn;

  constructor(name: string, storage: ViewStorage | undefined, warn: Warn) {
    this.#key = `aurelian-drift/view/${name}`;
    this.#storage = storage;
    this.#warn = warn;
  }

  /** The view that was kept; damaged data is taken away, with one notice. */
  read(): KeptView | undefined {
    try {
      const text = this.#storage?.getItem(this.#key) ?? undefined;
      if (text === undefined) return undefined;
      const read = v.safeParse(Kept, parsed(text));
      if (read.success) return read.output;
      this.#warn(
        `the map's kept view "${this.#key}" is damaged and is ignored: ${v.getDotPath(read.issues[0]) ?? 'it'} ${read.issues[0].message}`,
      );
      this.forget();
    } catch (cause) {
      this.#warn(`the map's view cannot be read here: ${String(cause)}`);
    }
    return undefined;
  }

  keep({ centre, zoom, turn }: KeptView): void {
    try {
      this.#storage?.setItem(
        this.#key,
        JSON.stringify({ centre: { lat: centre.lat, lon: centre.lon }, zoom, turn }),
      );
    } catch {
      // full or barred: the view is a convenience, and the next visit starts anew
    }
  }

  forget(): void {
    this.#storage?.removeItem(this.#key);
  }
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

import { InputError } from '../core/check/input-error.js';
import type { Bounds } from '../core/geodesy/bounds.js';
import type { Position } from '../core/geodesy/position.js';
import type { Camera } from '../core/scene/camera.js';
import type { LabelRoom } from '../core/scene/layers/label-room.js';
import type { Pin } from '../core/scene/layers/pin.js';
import { PinsOnSheet, heldPin, pinRegion, pinOnSheet, type PinOnSheet } from '../core/scene/layers/pins.js';
import type { MapWords } from '../core/scene/map-words.js';
import { isInPicture, wholeOf, type Region } from '../core/scene/region.js';
import type { Layer } from '../core/scene/scene.js';
import type { Words } from '../core/scene/words.js';
import { pinFrom, type PinOptions } from '../core/scene/layers/pin-from.js';

/** Number of pins at one place that causes a note. */
const CROWD = 1000;

/** The pins of a map, by their ids. */
export interface MapPins {
  readonly all: readonly Pin[];
  get(id: string | number): Pin | undefined;
  /**
   * Adds a pin, or replaces the one with the same id. Returns the id.
   *
   * @throws {InputError} for an impossible position or a misspelt option.
   */
  add(options: PinOptions): string;
  /** Adds many pins. Impossible ones are left out and returned with the problem. */
  addAll(pins: Iterable<PinOptions>): {
    readonly ids: readonly string[];
    readonly refused: readonly string[];
  };
  /** Changes a pin. An unknown id is ignored: the pin may have been removed meanwhile. */
  change(id: string | number, change: Partial<Omit<Pin, 'id'>>): void;
  /** Removes a pin; an unknown id is harmless. */
  remove(id: string | number): void;
  /** Removes all pins, or those of a group. The kite stays. */
  clear(group?: string): void;
}

/** The pins of a map, with their drawing, hit tests and dragging. */
export class PinBoard implements MapPins {
  /** In the order in which they are drawn: one that replaces another keeps its place, a new one is on top. */
  readonly #pins = new Map<string, PinOnSheet>();
  readonly #onChange: (region: ((camera: Camera) => Region | undefined) | 'over') => void;
  /** Pins came or went. */
  readonly #onSet: () => void;
  readonly #onSheet = new PinsOnSheet({ [Symbol.iterator]: () => this.#pins.values() }, () => this.#held?.id);
  #count = 0;
  #held: Pin | undefined;

  constructor(
    onChange: (region: ((camera: Camera) => Region | undefined) | 'over') => void,
    onSet: () => void,
  ) {
    this.#onChange = onChange;
    this.#onSet = onSet;
  }

  get all(): readonly Pin[] {
    return Array.from(this.#pins.values(), ({ pin }) => pin);
  }

  get size(): number {
    return this.#pins.size;
  }

  add(options: PinOptions): string {
    const before = this.#pins.size;
    const pin = this.#put(options);
    this.#changedAt(pin);
    if (this.#pins.size !== before) this.#onSet();
    return pin.id;
  }

  addAll(pins: Iterable<PinOptions>): {
    readonly ids: readonly string[];
    readonly refused: readonly string[];
  } {
    const ids: string[] = [];
    const refused: string[] = [];
    for (const pin of pins) {
      try {
        ids.push(this.#put(pin).id);
      } catch (error) {
        if (!(error instanceof InputError)) throw error;
        refused.push(error.reason);
      }
    }
    this.#onChange(wholeOf);
    this.#onSet();
    return { ids, refused };
  }

  get(id: string | number): Pin | undefined {
    return this.#pins.get(String(id))?.pin;
  }

  change(id: string | number, change: Partial<Omit<Pin, 'id'>>): void {
    const pin = this.get(id);
    if (pin !== undefined) this.add({ ...pin, ...change, id: pin.id });
  }

  /** Opens the label of a pin, or closes it. One without a text has none. */
  toggle(id: string): void {
    const pin = this.get(id);
    if (pin?.text !== undefined) this.change(id, { open: pin.open !== true });
  }

  remove(id: string | number): void {
    const pin = this.get(id);
    if (pin === undefined) return;
    this.#pins.delete(pin.id);
    this.#letGo(pin.id);
    this.#changedAt(pin);
    this.#onSet();
  }

  clear(group?: string): void {
    for (const { pin } of this.#pins.values()) {
      if (group !== undefined && pin.group !== group) continue;
      this.#pins.delete(pin.id);
      this.#letGo(pin.id);
    }
    this.#onChange(wholeOf);
    this.#onSet();
  }

  /** Number of pins at the first place that has too many to tell apart; `undefined` where there is none. */
  get crowd(): number | undefined {
    if (this.#pins.size < CROWD) return undefined;
    const places = new Map<string, number>();
    for (const { pin } of this.#pins.values()) {
      const key = `${pin.lat},${pin.lon}`;
      places.set(key, (places.get(key) ?? 0) + 1);
    }
    return [...places.values()].find((count) => count >= CROWD);
  }

  /** The topmost pin at a pixel. */
  at(x: number, y: number, camera: Camera): Pin | undefined {
    const id = this.#onSheet.hit(x, y, camera);
    return id === undefined ? undefined : this.get(id);
  }

  /** Visible pins, at most a number of them, with their pixels. */
  seen(camera: Camera, max: number): { readonly pin: Pin; readonly x: number; readonly y: number }[] {
    const seen: { pin: Pin; x: number; y: number }[] = [];
    for (const { pin, x: wx, y: wy } of this.#pins.values()) {
      const at = camera.pixelOfWorld(wx, wy);
      if (isInPicture(at, camera)) seen.push({ pin, ...at });
      if (seen.length === max) break;
    }
    return seen;
  }

  /** Lifts a pin; it is drawn in each frame until it is put down. An unknown id is ignored. */
  lift(id: string): void {
    const pin = this.get(id);
    if (pin === undefined) return;
    this.#held = pin;
    this.#changedAt(pin);
  }

  carry(to: Position): void {
    if (this.#held === undefined) return;
    this.#held = { ...this.#held, lat: to.lat, lon: to.lon };
    this.#onChange('over');
  }

  /** Puts the lifted pin down where it is, or where it was. Returns it; `undefined` when none is lifted any more. */
  putDown(keep: boolean): Pin | undefined {
    const pin = this.#held;
    this.#held = undefined;
    if (pin === undefined) return undefined;
    const put = keep ? pin : this.get(pin.id);
    if (put !== undefined) this.add(put);
    return put;
  }

  get held(): Pin | undefined {
    return this.#held;
  }

  /** The pins as a layer. */
  get ready(): {
    bounds(): Bounds | undefined;
    describe(camera: Camera | undefined, words: MapWords): Words[];
  } {
    return this.#onSheet;
  }

  under(camera: Camera, region: Region): readonly Layer[] {
    return this.#onSheet.under(camera, region);
  }

  over(camera: Camera, room: LabelRoom): Layer[] {
    const held = this.#held;
    const labels = this.#onSheet.over(camera, room);
    return held === undefined ? labels : [...labels, { id: 'held', steps: heldPin(held, camera, room) }];
  }

  #put(options: PinOptions): Pin {
    const pin = pinFrom(options, () => this.#newId());
    const old = this.get(pin.id);
    if (old !== undefined) this.#changedAt(old);
    this.#pins.set(pin.id, pinOnSheet(pin));
    if (this.#held?.id === pin.id) {
      // Moved by the app, it is where the app put it; changed otherwise, it stays in the hand.
      const moved = old === undefined || old.lat !== pin.lat || old.lon !== pin.lon;
      this.#held = moved ? undefined : { ...pin, lat: this.#held.lat, lon: this.#held.lon };
    }
    return pin;
  }

  #newId(): string {
    let id: string;
    do id = `aurelian-pin-${++this.#count}`;
    while (this.#pins.has(id));
    return id;
  }

  #letGo(id: string): void {
    if (this.#held?.id === id) this.#held = undefined;
  }

  #changedAt(pin: Pin): void {
    this.#onChange((camera) => pinRegion(camera.pixelOf(pin)));
  }
}

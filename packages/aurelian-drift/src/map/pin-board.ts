import { checkOptions, anything, oneOf, someText, yesOrNo } from '../core/check/options.js';
import { InputError } from '../core/check/input-error.js';
import { position, type Position } from '../core/geodesy/position.js';
import type { Camera } from '../core/scene/camera.js';
import type { LabelRoom } from '../core/scene/layers/label-room.js';
import {
  PIN_SHAPES,
  PinsOnSheet,
  heldPin,
  pinRegion,
  pinsOnSheet,
  type Pin,
  type PinOnSheet,
} from '../core/scene/layers/pins.js';
import { wholeOf, type Region } from '../core/scene/region.js';
import type { Layer } from '../core/scene/scene.js';

/** Options of a pin: any object with a lat and a lon. A missing id is generated. */
export type PinOptions = Omit<Pin, 'id'> & { readonly id?: string };

/** Number of pins at one place that causes a note. */
const CROWD = 1000;

/** The pins of a map, by their ids. */
export interface MapPins {
  readonly all: readonly Pin[];
  get(id: string): Pin | undefined;
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
  change(id: string, change: Partial<Omit<Pin, 'id'>>): void;
  /** Removes a pin; an unknown id is harmless. */
  remove(id: string): void;
  /** Removes all pins, or those of a group. The kite stays. */
  clear(group?: string): void;
}

/** The pins of a map, with their drawing, hit tests and dragging. */
export class PinBoard implements MapPins {
  readonly #pins = new Map<string, Pin>();
  readonly #onChange: (region: ((camera: Camera) => Region | undefined) | 'over') => void;
  /** Many pins were added or removed. */
  readonly #onMany: () => void;
  #sheet: PinOnSheet[] | undefined;
  #count = 0;
  #held: Pin | undefined;

  constructor(
    onChange: (region: ((camera: Camera) => Region | undefined) | 'over') => void,
    onMany: () => void,
  ) {
    this.#onChange = onChange;
    this.#onMany = onMany;
  }

  get all(): readonly Pin[] {
    return [...this.#pins.values()];
  }

  add(options: PinOptions): string {
    const pin = this.#put(options);
    this.#changedAt(pin);
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
    this.#onMany();
    return { ids, refused };
  }

  get(id: string): Pin | undefined {
    return this.#pins.get(id);
  }

  change(id: string, change: Partial<Omit<Pin, 'id'>>): void {
    const pin = this.#pins.get(id);
    if (pin !== undefined) this.add({ ...pin, ...change, id });
  }

  remove(id: string): void {
    const pin = this.#pins.get(id);
    if (pin === undefined) return;
    this.#pins.delete(id);
    this.#sheet = undefined;
    this.#changedAt(pin);
  }

  clear(group?: string): void {
    for (const [id, pin] of this.#pins) if (group === undefined || pin.group === group) this.#pins.delete(id);
    this.#sheet = undefined;
    this.#onChange(wholeOf);
    this.#onMany();
  }

  /** Number of pins at the first place that has too many to tell apart; `undefined` where there is none. */
  get crowd(): number | undefined {
    const places = new Map<string, number>();
    for (const { lat, lon } of this.#pins.values()) {
      const key = `${lat},${lon}`;
      const count = (places.get(key) ?? 0) + 1;
      if (count >= CROWD) return this.#countAt(lat, lon);
      places.set(key, count);
    }
    return undefined;
  }

  /** The topmost pin at a pixel. */
  at(x: number, y: number, camera: Camera): Pin | undefined {
    const id = this.ready.hit(x, y, camera);
    return id === undefined ? undefined : this.#pins.get(id);
  }

  /** Lifts a pin; it is drawn in each frame until it is put down. */
  lift(pin: Pin): void {
    this.#held = pin;
    this.#changedAt(pin);
  }

  carry(to: Position): void {
    if (this.#held === undefined) return;
    this.#held = { ...this.#held, lat: to.lat, lon: to.lon };
    this.#onChange('over');
  }

  /** Puts the lifted pin down where it is, or where it was. */
  putDown(keep: boolean): Pin | undefined {
    const pin = this.#held;
    this.#held = undefined;
    if (pin === undefined) return undefined;
    const put = keep ? pin : this.#pins.get(pin.id);
    if (put !== undefined) this.add(put);
    return put;
  }

  get held(): Pin | undefined {
    return this.#held;
  }

  under(camera: Camera, region: Region): readonly Layer[] {
    return this.ready.under(camera, region);
  }

  over(camera: Camera, room: LabelRoom): Layer[] {
    const labels = this.ready.over(camera, room);
    return this.#held === undefined
      ? labels
      : [...labels, { id: 'held', steps: heldPin(this.#held, camera) }];
  }

  #put(options: PinOptions): Pin {
    checkOptions('a pin', own(options), {
      id: someText,
      lat: anything,
      lon: anything,
      text: (value) =>
        typeof value === 'string' ? undefined : 'must be a text; rich content is an element of your own',
      open: yesOrNo,
      group: someText,
      draggable: yesOrNo,
      colour: (value) =>
        typeof value === 'string' && /^#[0-9a-f]{6}$/i.test(value)
          ? undefined
          : 'must be a colour like #5b4a8a',
      shape: oneOf(...PIN_SHAPES),
    });
    const { lat, lon } = position(options.lat, options.lon);
    const id = options.id ?? `pin-${++this.#count}`;
    const { text, open, group, draggable, colour, shape } = options;
    const old = this.#pins.get(id);
    if (old !== undefined) this.#changedAt(old);
    const pin: Pin = {
      id,
      lat,
      lon,
      ...(text !== undefined && { text }),
      ...(open !== undefined && { open }),
      ...(group !== undefined && { group }),
      ...(draggable !== undefined && { draggable }),
      ...(colour !== undefined && { colour }),
      ...(shape !== undefined && { shape }),
    };
    this.#pins.set(id, pin);
    // A pin that replaces another keeps its place in the drawing order; a new one is on top.
    if (this.#sheet !== undefined) {
      const index =
        old === undefined ? this.#sheet.length : this.#sheet.findIndex((each) => each.pin.id === id);
      this.#sheet.splice(index, 1, ...pinsOnSheet([pin]));
    }
    return pin;
  }

  /** The pins as a layer. */
  get ready(): PinsOnSheet {
    this.#sheet ??= pinsOnSheet(this.all);
    return new PinsOnSheet(this.#sheet, () => this.#held?.id);
  }

  #countAt(lat: number, lon: number): number {
    return this.all.filter((pin) => pin.lat === lat && pin.lon === lon).length;
  }

  #changedAt(pin: Pin): void {
    this.#onChange((camera) => pinRegion(camera.pixelOf(pin)));
  }
}

/** The known options of a pin: the object may have others. */
function own(options: PinOptions): object {
  const names = ['id', 'lat', 'lon', 'text', 'open', 'group', 'draggable', 'colour', 'shape'];
  return Object.fromEntries(Object.entries(options).filter(([name]) => names.includes(name)));
}

import type { Fix } from '../core/fix/fix.js';
import { isolated, type OnListenerError } from '../live/listener.js';
import type { Receiver } from '../receiver/receiver.js';
import type { MapWriting } from './map-writing.js';
import type { Notes } from './notes.js';
import type { OwnKite } from './own-kite.js';
import { OwnPlace } from './own-place.js';

/** Parts of a map that the own place needs, and what it tells. */
export interface OwnOnMapParts {
  readonly kite: OwnKite;
  readonly notes: Notes;
  readonly writing: MapWriting;
  /** The own place is another one, or is gone. */
  readonly moved: () => void;
  /** It is followed, or no longer. */
  readonly changed: () => void;
  /** Asks the app for a place, where there is no receiver. */
  readonly onOwnPlace: (() => void) | undefined;
  readonly report: OnListenerError;
}

/** The own place on a map: from a receiver, which may be exchanged, or from the app. */
export class OwnOnMap {
  readonly #parts: OwnOnMapParts;
  #receiver: Receiver | undefined;
  #place: OwnPlace | undefined;

  constructor(parts: OwnOnMapParts) {
    this.#parts = parts;
  }

  get receiver(): Receiver | undefined {
    return this.#receiver;
  }
  set receiver(receiver: Receiver | undefined) {
    if (receiver === this.#receiver) return;
    const follows = this.follows;
    this.#place?.close();
    this.#receiver = receiver;
    this.#place = receiver && this.#bind(receiver);
    if (follows) this.#place?.show();
    this.#parts.moved();
    this.#parts.changed();
  }

  /** Whether the map itself follows its receiver. */
  get follows(): boolean {
    return this.#place?.shown === true;
  }

  /** Whether the own place is shown, as the control says. */
  get shown(): boolean {
    return this.follows || this.#parts.kite.fix !== undefined;
  }

  show(): void {
    const { onOwnPlace, report } = this.#parts;
    if (this.#place !== undefined) this.#place.show();
    else if (onOwnPlace !== undefined) isolated(onOwnPlace, report)(undefined);
  }

  hide(): void {
    if (this.#place === undefined) this.take(undefined);
    else this.#place.hide();
  }

  take(fix: Fix | undefined): void {
    this.#parts.kite.show(fix);
    this.#parts.moved();
  }

  /** Writes the notes again, in another language. */
  refresh(): void {
    this.#place?.refresh();
  }

  close(): void {
    this.#place?.close();
  }

  #bind(receiver: Receiver): OwnPlace {
    const { notes, changed, writing } = this.#parts;
    return new OwnPlace(receiver, {
      fix: (fix) => this.take(fix),
      note: (kind, note) => notes.set(kind, note),
      changed,
      texts: () => ({ map: writing.words.texts, failures: writing.texts }),
    });
  }
}

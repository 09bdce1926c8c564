import type { Position } from '../core/geodesy/position.js';
import type { Camera } from '../core/scene/camera.js';
import { isInPicture } from '../core/scene/region.js';

/** Where an element is anchored: a position, or a pin by its id. */
export type AnchorPlace = Position | { readonly pin: string };

/** Sides of its place on which an anchored element stands. */
export const ANCHOR_SIDES = ['above', 'below', 'right', 'left', 'middle'] as const;
/** The side of its place on which an anchored element stands. */
export type AnchorSide = (typeof ANCHOR_SIDES)[number];

interface Anchor {
  readonly element: HTMLElement;
  readonly holder: HTMLElement;
  readonly place: AnchorPlace;
}

/** Makes the names of slots unique in a page: an element may move from one map to another. */
let count = 0;

/**
 * Elements of the app at places of the map. Each stays a child of the container, with the styles of the page, in a slot
 * that moves with its place. One whose place is out of view is hidden, also from the keyboard.
 */
export class Anchors {
  /** Lies over the map. */
  readonly element = document.createElement('div');
  readonly #container: HTMLElement;
  /** Where a pin stands now; `undefined` when it is gone. */
  readonly #pinAt: (id: string) => Position | undefined;
  readonly #anchors = new Map<HTMLElement, Anchor>();

  constructor(container: HTMLElement, pinAt: (id: string) => Position | undefined) {
    this.#container = container;
    this.#pinAt = pinAt;
    this.element.className = 'anchors';
  }

  /** Anchors an element, or moves it to another place. Returns the function that takes it off the map. */
  put(element: HTMLElement, place: AnchorPlace, side: AnchorSide): () => void {
    this.remove(element);
    const holder = document.createElement('div');
    holder.className = `anchor ${side}`;
    const slot = document.createElement('slot');
    slot.name = `aurelian-anchor-${++count}`;
    holder.append(slot);
    const anchor = { element, holder, place };
    this.#anchors.set(element, anchor);
    element.slot = slot.name;
    this.element.append(holder);
    if (element.parentNode !== this.#container) this.#container.append(element);
    return () => {
      if (this.#anchors.get(element) === anchor) this.remove(element);
    };
  }

  remove(element: HTMLElement): void {
    const anchor = this.#anchors.get(element);
    if (anchor === undefined) return;
    this.#anchors.delete(element);
    anchor.holder.remove();
    element.removeAttribute('slot');
    if (element.parentNode === this.#container) element.remove();
  }

  /** Moves the elements with the map; `undefined` hides them. */
  show(camera: Camera | undefined): void {
    for (const { holder, place, element } of this.#anchors.values()) {
      const at = 'pin' in place ? this.#pinAt(place.pin) : place;
      const pixel = at && camera?.pixelOf(at);
      const seen = pixel !== undefined && camera !== undefined && isInPicture(pixel, camera);
      // The focused one stays: focus is never lost.
      holder.classList.toggle('away', !seen && !element.matches(':focus-within'));
      if (pixel !== undefined) holder.style.transform = `translate(${pixel.x}px, ${pixel.y}px)`;
    }
  }

  close(): void {
    for (const element of [...this.#anchors.keys()]) this.remove(element);
  }
}

export const ANCHORS_STYLE = `
  .anchors { position: absolute; inset: 0; overflow: hidden; pointer-events: none; }
  .anchor { position: absolute; left: 0; top: 0; width: 0; height: 0; pointer-events: none; }
  .anchor slot { display: block; position: absolute; left: 0; top: 0; width: max-content; pointer-events: auto; }
  .anchor.above slot { transform: translate(-50%, -100%); }
  .anchor.below slot { transform: translate(-50%, 0); }
  .anchor.right slot { transform: translate(0, -50%); }
  .anchor.left slot { transform: translate(-100%, -50%); }
  .anchor.middle slot { transform: translate(-50%, -50%); }
  .anchor.away { visibility: hidden; }
`;

import type { Position } from '../core/geodesy/position.js';
import type { Camera } from '../core/scene/camera.js';
import type { Pin } from '../core/scene/layers/pins.js';
import type { PinBoard } from './pin-board.js';

/** Maximum number of visible pins for the keyboard. */
const REACHABLE = 40;
/** Pixels per arrow key for a lifted pin. */
const STEP = 10;

/** Effects of keys on pins. */
export interface PinKeysSink {
  chosen(pin: Pin): void;
  dropped(pin: Pin): void;
}

/**
 * The visible pins as buttons for the keyboard and screen readers, each at its place. Enter chooses a pin; a draggable
 * one is lifted by Enter, moved by the arrows, and put down by Enter; Escape puts it back.
 */
export class PinKeys {
  readonly element: HTMLElement;
  readonly #board: PinBoard;
  readonly #sink: PinKeysSink;
  #camera: Camera | undefined;

  constructor(board: PinBoard, sink: PinKeysSink) {
    this.#board = board;
    this.#sink = sink;
    this.element = document.createElement('div');
    this.element.className = 'pin-keys';
    this.element.addEventListener('keydown', (event) => this.#key(event));
  }

  /** Updates the buttons to the visible pins; the focused one stays. */
  show(camera: Camera): void {
    this.#camera = camera;
    if (this.#board.held !== undefined) return;
    const seen: Pin[] = [];
    for (const pin of this.#board.all) {
      const { x, y } = camera.pixelOf(pin);
      if (x >= 0 && y >= 0 && x <= camera.width && y <= camera.height) seen.push(pin);
      if (seen.length === REACHABLE) break;
    }
    const wanted = new Set(seen.map(({ id }) => id));
    for (const button of [...this.element.children] as HTMLElement[]) {
      if (!wanted.has(button.dataset['pin'] ?? '')) button.remove();
    }
    for (const pin of seen) this.#place(this.#buttonOf(pin), pin, camera);
  }

  #buttonOf(pin: Pin): HTMLElement {
    const known = [...this.element.children].find((each) => (each as HTMLElement).dataset['pin'] === pin.id);
    if (known !== undefined) return known as HTMLElement;
    const button = document.createElement('button');
    button.type = 'button';
    button.dataset['pin'] = pin.id;
    this.element.append(button);
    return button;
  }

  #place(button: HTMLElement, pin: Pin, camera: Camera): void {
    const { x, y } = camera.pixelOf(pin);
    button.style.transform = `translate(${Math.round(x - 14)}px, ${Math.round(y - 34)}px)`;
    const how = pin.draggable === true ? ', can be moved: Enter lifts it' : '';
    const label = `${pin.text ?? 'Pin'}${how}`;
    if (button.getAttribute('aria-label') !== label) button.setAttribute('aria-label', label);
  }

  #key(event: KeyboardEvent): void {
    const button = event.target as HTMLElement;
    const pin = this.#board.get(button.dataset['pin'] ?? '');
    const camera = this.#camera;
    if (pin === undefined || camera === undefined) return;
    const held = this.#board.held;
    const arrows: Readonly<Record<string, readonly [number, number]>> = {
      ArrowLeft: [-STEP, 0],
      ArrowRight: [STEP, 0],
      ArrowUp: [0, -STEP],
      ArrowDown: [0, STEP],
    };
    const step = arrows[event.key];
    if (event.key === 'Enter' || event.key === ' ') {
      if (pin.draggable !== true) this.#sink.chosen(pin);
      else if (held === undefined) this.#board.lift(pin);
      else this.#put(button, true);
    } else if (event.key === 'Escape' && held !== undefined) {
      this.#put(button, false);
    } else if (step !== undefined && held !== undefined) {
      const { x, y } = camera.pixelOf(held);
      const to: Position = camera.positionAt(x + step[0], y + step[1]);
      this.#board.carry(to);
      this.#place(button, { ...held, ...to }, camera);
    } else {
      return; // keys of the map
    }
    event.preventDefault();
    event.stopPropagation();
  }

  #put(button: HTMLElement, keep: boolean): void {
    const pin = this.#board.putDown(keep);
    if (pin === undefined || this.#camera === undefined) return;
    this.#place(button, pin, this.#camera);
    if (keep) this.#sink.dropped(pin);
  }
}

export const PIN_KEYS_STYLE = `
  .pin-keys button { position: absolute; left: 0; top: 0; width: 28px; height: 40px; padding: 0; border: 0;
    background: none; pointer-events: none; }
  .pin-keys button:focus-visible { outline: 3px solid var(--violet); }
`;

import type { Position } from '../core/geodesy/position.js';
import type { Camera, Pixel } from '../core/scene/camera.js';
import type { Pin } from '../core/scene/layers/pin.js';
import type { MapWords } from '../core/scene/map-words.js';
import { filled } from '../core/texts/part.js';
import type { OwnKite } from './own-kite.js';
import type { PinBoard } from './pin-board.js';

/** Maximum number of visible pins for the keyboard. */
const REACHABLE = 40;
/** Pixels per arrow key for a lifted pin. */
const STEP = 10;

const ARROWS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-STEP, 0],
  ArrowRight: [STEP, 0],
  ArrowUp: [0, -STEP],
  ArrowDown: [0, STEP],
};

/** Effects of keys on pins and the kite. */
export interface PinKeysSink {
  chosen(pin: Pin): void;
  /** Enter on the kite. */
  kite(at: Position): void;
  dropped(pin: Pin): void;
}

/**
 * The kite and the visible pins as buttons for the keyboard and screen readers, each at its place. Enter opens a label;
 * Space lifts a draggable pin, arrows move it, Space or Enter puts it down, and Escape puts it back.
 */
export class PinKeys {
  readonly element: HTMLElement;
  readonly #board: PinBoard;
  readonly #kite: OwnKite;
  readonly #sink: PinKeysSink;
  readonly #buttons = new Map<string, HTMLElement>();
  readonly #kiteButton = keyButton();
  #camera: Camera | undefined;

  constructor(board: PinBoard, kite: OwnKite, sink: PinKeysSink) {
    this.#board = board;
    this.#kite = kite;
    this.#sink = sink;
    this.element = document.createElement('div');
    this.element.className = 'pin-keys';
    this.element.addEventListener('keydown', (event) => this.#key(event));
    // Screen readers press buttons by a click.
    this.element.addEventListener('click', (event) => this.#press(event.target as HTMLElement));
  }

  /** Updates the buttons to the visible pins; the focused one stays. */
  show(camera: Camera, words: MapWords): void {
    this.#camera = camera;
    this.#showKite(camera, words);
    if (this.#board.held !== undefined) return;
    const seen = this.#board.seen(camera, REACHABLE);
    const wanted = new Set(seen.map(({ pin }) => pin.id));
    for (const [id, button] of this.#buttons) {
      // The one in use goes when its pin is gone.
      if (wanted.has(id) || (button.matches(':focus') && this.#board.get(id) !== undefined)) continue;
      button.remove();
      this.#buttons.delete(id);
    }
    for (const { pin, x, y } of seen) {
      const button = this.#buttons.get(pin.id) ?? this.#made(pin.id);
      moveTo(button, { x: x - 14, y: y - 34 });
      const { texts } = words;
      const name = pin.text ?? texts.pin;
      setName(button, pin.draggable === true ? filled(texts.movable, { name }) : name);
      if (pin.text === undefined) button.removeAttribute('aria-expanded');
      else button.setAttribute('aria-expanded', String(pin.open === true));
    }
  }

  #showKite(camera: Camera, words: MapWords): void {
    const { fix, open } = this.#kite;
    if (fix === undefined) {
      this.#kiteButton.remove();
      return;
    }
    if (this.#kiteButton.parentNode === null) this.element.prepend(this.#kiteButton);
    const { x, y } = camera.pixelOf(fix);
    moveTo(this.#kiteButton, { x: x - 14, y: y - 20 });
    // The words of a fix change often: a focused button must not be announced with each.
    setName(this.#kiteButton, words.texts.kite);
    this.#kiteButton.setAttribute('aria-expanded', String(open));
  }

  #made(id: string): HTMLElement {
    const button = keyButton();
    button.dataset['pin'] = id;
    this.#buttons.set(id, button);
    this.element.append(button);
    return button;
  }

  #pinOf(button: HTMLElement): Pin | undefined {
    const id = button.dataset['pin'];
    return id === undefined ? undefined : this.#board.get(id);
  }

  #press(button: HTMLElement): void {
    const pin = this.#pinOf(button);
    const { fix } = this.#kite;
    if (button === this.#kiteButton && fix !== undefined) this.#sink.kite({ lat: fix.lat, lon: fix.lon });
    else if (pin !== undefined && this.#board.held === undefined) this.#sink.chosen(pin);
  }

  #key(event: KeyboardEvent): void {
    const button = event.target as HTMLElement;
    const pin = this.#pinOf(button);
    const camera = this.#camera;
    const { held } = this.#board;
    const { key } = event;
    if (pin === undefined || camera === undefined || (held !== undefined && held.id !== pin.id)) return;
    const step = ARROWS[key];
    if (held === undefined && key === ' ' && pin.draggable === true) {
      this.#board.lift(pin.id);
    } else if (held !== undefined && (key === ' ' || key === 'Enter' || key === 'Escape')) {
      this.#put(button, key !== 'Escape');
    } else if (step !== undefined && held !== undefined) {
      const { x, y } = camera.pixelOf(held);
      this.#board.carry(camera.positionAt(x + step[0], y + step[1]));
      moveTo(button, { x: x + step[0] - 14, y: y + step[1] - 34 });
    } else {
      return; // keys of the map, and the click that Enter makes
    }
    event.preventDefault();
    event.stopPropagation();
  }

  #put(button: HTMLElement, keep: boolean): void {
    const pin = this.#board.putDown(keep);
    if (pin === undefined || this.#camera === undefined) return;
    const { x, y } = this.#camera.pixelOf(pin);
    moveTo(button, { x: x - 14, y: y - 34 });
    if (keep) this.#sink.dropped(pin);
  }
}

function keyButton(): HTMLElement {
  const button = document.createElement('button');
  button.type = 'button';
  return button;
}

function moveTo(button: HTMLElement, { x, y }: Pixel): void {
  button.style.transform = `translate(${Math.round(x)}px, ${Math.round(y)}px)`;
}

function setName(button: HTMLElement, name: string): void {
  if (button.getAttribute('aria-label') !== name) button.setAttribute('aria-label', name);
}

export const PIN_KEYS_STYLE = `
  .pin-keys button { position: absolute; left: 0; top: 0; width: 28px; height: 40px; padding: 0; border: 0;
    background: none; pointer-events: none; }
  .pin-keys button:focus-visible { outline: 3px solid var(--violet); }
`;

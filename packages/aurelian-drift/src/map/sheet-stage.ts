import type { Theme } from '../core/scene/theme.js';
import type { MapTexts } from '../core/texts/texts.js';
import { SheetStyle } from './sheet-style.js';

/** Elements of the map on the page: the stage with its content, what lies over it, and the strip below. */
export class SheetStage {
  readonly root: ShadowRoot;
  /** Takes the gestures and keys, and has the size of the picture. */
  readonly stage: HTMLElement;
  readonly #style: SheetStyle;
  readonly #keys = unseen('p');
  readonly #words = unseen('p');
  readonly #said = unseen('p');

  /**
   * Builds the elements in the shadow of a container, with a slot for controls of the app over the map.
   *
   * @param over lies over the stage and takes its own touches.
   */
  constructor(
    container: HTMLElement,
    parts: {
      readonly onStage: readonly HTMLElement[];
      readonly over: readonly HTMLElement[];
      readonly below: readonly HTMLElement[];
    },
  ) {
    this.root = container.shadowRoot ?? container.attachShadow({ mode: 'open' });
    this.#style = new SheetStyle(this.root);
    this.stage = document.createElement('div');
    this.stage.className = 'stage';
    this.stage.setAttribute('part', 'stage');
    this.stage.tabIndex = 0;
    this.stage.setAttribute('role', 'group');
    this.stage.setAttribute('aria-describedby', 'words keys');
    this.#keys.id = 'keys';
    this.#words.id = 'words';
    this.#said.setAttribute('role', 'status');
    this.stage.append(...parts.onStage, this.#words, this.#keys);
    const slot = document.createElement('slot');
    slot.className = 'own-controls';
    const frame = document.createElement('div');
    frame.className = 'frame';
    // Beside the stage, not in it: controls of the app take their own touches.
    frame.append(this.stage, ...parts.over, slot, this.#said);
    const sheet = document.createElement('div');
    sheet.className = 'sheet';
    sheet.append(frame, ...parts.below);
    this.root.replaceChildren(sheet);
  }

  set theme(theme: Theme) {
    this.#style.theme = theme;
  }

  /** The name of the map, which stays, and the words for screen readers in its language. */
  name(label: string, { role, keys }: MapTexts, language: string): void {
    this.stage.setAttribute('aria-label', label);
    this.stage.setAttribute('aria-roledescription', role);
    this.stage.lang = language;
    this.#said.lang = language;
    this.#keys.textContent = keys;
  }

  /** Description for screen readers that move to the map; it is not announced. */
  describe(text: string): void {
    if (this.#words.textContent !== text) this.#words.textContent = text;
  }

  /** Announces a sentence, when the user is not busy with another one. */
  say(text: string): void {
    this.#said.textContent = text;
  }

  remove(): void {
    this.root.replaceChildren();
  }
}

function unseen(name: 'p'): HTMLElement {
  const element = document.createElement(name);
  element.className = `unseen`;
  return element;
}

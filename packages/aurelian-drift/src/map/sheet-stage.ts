import type { Theme } from '../core/scene/theme.js';
import { sheetStyle } from './sheet-style.js';

/** Elements of the map on the page: the stage with its content, and the strip below. */
export interface SheetStage {
  readonly root: ShadowRoot;
  readonly stage: HTMLElement;
  theme(theme: Theme): void;
  /** Description of the map for screen readers that move to it; it is not announced. */
  describe(text: string): void;
}

const KEYS = 'Arrows move the map, plus and minus zoom, shift and arrows turn, Home goes to the own place.';

/** Builds the elements in the shadow of a container, with a slot for controls of the app over the map. */
export function buildStage(
  container: HTMLElement,
  onStage: readonly HTMLElement[],
  below: readonly HTMLElement[],
): SheetStage {
  const root = container.shadowRoot ?? container.attachShadow({ mode: 'open' });
  const style = document.createElement('style');
  const stage = document.createElement('div');
  stage.className = 'stage';
  stage.setAttribute('part', 'stage');
  stage.tabIndex = 0;
  stage.setAttribute('role', 'group');
  stage.setAttribute('aria-roledescription', 'map');
  stage.setAttribute('aria-describedby', 'keys');
  const keys = document.createElement('p');
  keys.className = 'keys';
  keys.id = 'keys';
  keys.textContent = KEYS;
  const slot = document.createElement('slot');
  slot.className = 'own-controls';
  stage.append(...onStage, keys);
  const frame = document.createElement('div');
  frame.className = 'frame';
  // Beside the stage, not in it: controls of the app take their own touches.
  frame.append(stage, slot);
  const sheet = document.createElement('div');
  sheet.className = 'sheet';
  sheet.append(frame, ...below);
  root.replaceChildren(style, sheet);
  return {
    root,
    stage,
    theme: (theme) => (style.textContent = sheetStyle(theme)),
    describe(text) {
      if (stage.getAttribute('aria-label') !== text) stage.setAttribute('aria-label', text);
    },
  };
}

/** Whether an element is hidden on purpose, rather than without a size by mistake. */
export function isHidden(element: HTMLElement): boolean {
  return element.offsetParent === null && getComputedStyle(element).position !== 'fixed';
}

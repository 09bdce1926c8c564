import { filled } from '../core/texts/part.js';
import type { MapTexts } from '../core/texts/texts.js';
import type { LayerStack } from './layer-stack.js';
import type { MapNote, Notes } from './notes.js';
import type { PinBoard } from './pin-board.js';

/** Parts of a map that are checked. */
export interface CheckedParts {
  readonly notes: Notes;
  readonly layers: LayerStack;
  readonly pins: PinBoard;
  readonly texts: () => MapTexts;
  /** Why the map has no size, by a mistake of the page; `undefined` when it has one. */
  readonly sizeFault: () => string | undefined;
  /** Whether a background is being loaded. */
  readonly awaited: () => boolean;
  /** Whether the map has neither a view nor content to show, and nothing is on its way. */
  readonly lost: () => boolean;
}

/** Keeps the notes about the state of a map right: its size, background, data, pins and view. */
export class MapChecks {
  readonly #parts: CheckedParts;

  constructor(parts: CheckedParts) {
    this.#parts = parts;
  }

  size(): void {
    const { notes, texts, sizeFault } = this.#parts;
    const developer = sizeFault();
    notes.set('no-size', developer === undefined ? undefined : { text: texts().noSize, developer });
  }

  layers(): void {
    const { notes, layers, texts, awaited } = this.#parts;
    const developer = 'the map has no ground, tiles or grid layer';
    const missing = !layers.hasBackground && !awaited();
    notes.set('no-background', missing ? { text: texts().noBackground, developer } : undefined);
    notes.set('tiles', dataNote(layers, texts()));
  }

  pins(): void {
    const { notes, pins, texts } = this.#parts;
    const count = pins.crowd;
    const developer = `${count} pins have the same position`;
    notes.set(
      'pins',
      count === undefined ? undefined : { text: filled(texts().crowdedPins, { count }), developer },
    );
  }

  view(): void {
    const { notes, texts, lost } = this.#parts;
    const developer =
      'the map has nothing to show: give it a centre and zoom, bounds, a receiver, or layers with content';
    notes.set('no-view', lost() ? { text: texts().noView, developer } : undefined);
  }

  all(): void {
    this.size();
    this.layers();
    this.pins();
    this.view();
  }
}

function dataNote(layers: LayerStack, { tiles, tilesRefused }: MapTexts): MapNote | undefined {
  const [error] = layers.errors;
  if (error === undefined) return undefined;
  const { happened, help } = error.kind === 'refused' ? tilesRefused : tiles;
  return { text: happened, help, developer: error.text };
}

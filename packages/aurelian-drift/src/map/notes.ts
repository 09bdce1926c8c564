import type { Warn } from '../live/warn.js';

/** Kinds of notes in a map; there is at most one of each. */
export type MapNoteKind =
  | 'no-size'
  | 'no-background'
  | 'no-view'
  | 'tiles'
  | 'no-fix'
  | 'refused'
  | 'pins'
  | 'content'
  | 'faulty'
  | 'hint';

/** A note in the map, for the user. */
export interface MapNote {
  /** What happened, in a sentence. */
  readonly text: string;
  /** What the user can do, in a sentence. */
  readonly help?: string;
  /** A button that does it. */
  readonly act?: { readonly label: string; readonly run: () => void };
  /** Message for the developer: it goes to `warn`, once per text, and is not shown. */
  readonly developer?: string;
}

/** Notes in the upper corner of the map: problems and remedies. */
export class Notes {
  readonly element: HTMLElement;
  readonly #notes = new Map<MapNoteKind, { note: MapNote; element: HTMLElement }>();
  readonly #warn: Warn;
  readonly #warned = new Set<string>();

  constructor(warn: Warn) {
    this.#warn = warn;
    this.element = document.createElement('div');
    this.element.className = 'notes';
    this.element.setAttribute('role', 'status');
  }

  get shown(): ReadonlyMap<MapNoteKind, MapNote> {
    return new Map([...this.#notes].map(([kind, { note }]) => [kind, note]));
  }

  /** Warns in the next task: a map that gets its layers right after its creation needs no warning. */
  #warnLater(kind: MapNoteKind, developer: string): void {
    setTimeout(() => {
      if (this.#notes.get(kind)?.note.developer !== developer || this.#warned.has(developer)) return;
      this.#warned.add(developer);
      this.#warn(developer);
    });
  }

  /** Shows a note, or removes it. */
  set(kind: MapNoteKind, note: MapNote | undefined): void {
    if (note?.developer !== undefined) this.#warnLater(kind, note.developer);
    const before = this.#notes.get(kind);
    if (before?.note.text === note?.text && before?.note.help === note?.help) return;
    before?.element.remove();
    this.#notes.delete(kind);
    if (note === undefined) return;
    const element = slip(note);
    element.dataset['kind'] = kind;
    this.#notes.set(kind, { note, element });
    this.element.append(element);
  }
}

function slip({ text, help, act }: MapNote): HTMLElement {
  const element = document.createElement('p');
  element.className = 'note';
  const strong = document.createElement('strong');
  strong.textContent = text;
  element.append(strong, help === undefined ? '' : ` ${help}`);
  if (act !== undefined) {
    const button = document.createElement('button');
    button.type = 'button';
    button.textContent = act.label;
    button.addEventListener('click', act.run);
    element.append(' ', button);
  }
  return element;
}

export const NOTES_STYLE = `
  .notes { position: absolute; left: 0; right: 0; top: 0; z-index: 2; display: flex; flex-direction: column;
    gap: .4rem; align-items: flex-start;
    padding: 2.4rem 2.4rem 0; pointer-events: none; }
  .note { margin: 0; max-width: 28rem; padding: .4rem .7rem; background: var(--paper); color: var(--ink);
    border: 1.2px solid var(--ink);
    font: .98rem/1.35 var(--font); pointer-events: auto; }
  .note button { font: inherit; font-weight: 600; color: inherit; background: none; border: 1.2px solid var(--ink);
    padding: .1rem .6rem; min-height: 32px; cursor: pointer; }
  @container (max-width: 480px) { .notes { padding: .6rem .6rem 0; } }
`;

import { InputError } from '../core/check/input-error.js';
import { suggestion } from '../core/check/suggest.js';
import { placeOf, tellAuthor } from './attribute-values.js';
import { CONDITIONS, SHOWN, type PageState } from './page-state.js';

/** What a button may do: the words of `data-does`. */
const ACTS = ['ask', 'locate', 'follow', 'stop', 'remedy', 'send', 'submit'] as const;
/** An act of a button. */
export type Act = (typeof ACTS)[number];

type Field = HTMLInputElement | HTMLTextAreaElement | HTMLDataElement;

/**
 * The parts of a page that are wired by attributes: they show values, are there under a condition, or act when pressed.
 */
export class WiredParts {
  readonly #root: Element;
  /** Content that the author gave a part: it is shown while the value is unknown. */
  readonly #own = new WeakMap<Element, string>();
  /** Words that were reported as unknown. */
  readonly #told = new Set<string>();

  constructor(root: Element) {
    this.#root = root;
  }

  /** Whether any part shows one of some words. */
  shows(...words: readonly string[]): boolean {
    return this.#parts('data-shows').some(([, word]) => words.includes(word));
  }

  /** The act of what was pressed; `undefined` when it does nothing. */
  actOf(target: EventTarget | null): { readonly act: Act; readonly element: Element } | undefined {
    const element = target instanceof Element ? target.closest('[data-does]') : null;
    if (element === null || !this.#isOwn(element)) return undefined;
    const word = element.getAttribute('data-does') ?? '';
    const act = ACTS.find((each) => each === word);
    if (act === undefined) this.#tell('data-does', word, ACTS);
    return act === undefined || isOff(element) ? undefined : { act, element };
  }

  show(state: PageState): void {
    for (const [element, word] of this.#parts('data-shows')) {
      const value = SHOWN[word];
      if (value === undefined) {
        this.#tell('data-shows', word, Object.keys(SHOWN));
        continue;
      }
      const to = this.#placeOf(element);
      if (isField(element)) this.#fill(element, (value.plain ?? value.text)(state, to));
      if (!isField(element) || element instanceof HTMLDataElement)
        this.#write(element, value.text(state, to));
    }
    for (const [element, words] of this.#parts('data-when')) {
      const conditions = words.trim().split(/\s+/);
      for (const word of conditions)
        if (!(word in CONDITIONS)) this.#tell('data-when', word, Object.keys(CONDITIONS));
      (element as HTMLElement).hidden = !conditions.some((word) => CONDITIONS[word]?.(state) === true);
    }
    for (const [element, word] of this.#parts('data-does'))
      // Off, but still there for the keyboard: a button that is disabled would lose the focus.
      setAttribute(element, 'aria-disabled', isUseless(word, state) ? 'true' : undefined);
  }

  #fill(field: Field, value: string | undefined): void {
    const before = field.value;
    if (value !== undefined) {
      if (!this.#own.has(field)) this.#own.set(field, before);
      if (before !== value) field.value = value;
    } else if (this.#own.has(field)) {
      field.value = this.#own.get(field) ?? '';
    }
  }

  #write(element: Element, text: string | undefined): void {
    if (!this.#own.has(element)) this.#own.set(element, element.textContent);
    const shown = text ?? this.#own.get(element) ?? '';
    if (element.textContent !== shown) element.textContent = shown;
  }

  #placeOf(element: Element): { lat: number; lon: number } | undefined {
    const to = element.getAttribute('data-to');
    if (to === null) return undefined;
    try {
      return placeOf('data-to', to);
    } catch (error) {
      if (!this.#told.has(to)) tellAuthor(error);
      this.#told.add(to);
      return undefined;
    }
  }

  #parts(attribute: string): [Element, string][] {
    return Array.from(this.#root.querySelectorAll(`[${attribute}]`))
      .filter((element) => this.#isOwn(element))
      .map((element) => [element, element.getAttribute(attribute) ?? '']);
  }

  /** Whether a part belongs to this element, not to one inside it. */
  #isOwn(element: Element): boolean {
    return element.parentElement?.closest(this.#root.localName) === this.#root;
  }

  #tell(attribute: string, word: string, known: readonly string[]): void {
    const key = `${attribute} ${word}`;
    if (this.#told.has(key)) return;
    this.#told.add(key);
    tellAuthor(
      new InputError('bad-value', `${attribute}="${word}" is no word of it, ${suggestion(word, known)}`),
    );
  }
}

/** Leaves out the empty fields of a form that show a value: a place that is not known is absent. */
export function leaveOutEmpty(form: HTMLFormElement, data: FormData): void {
  for (const field of form.querySelectorAll<HTMLInputElement>('input[data-shows][name]'))
    if (field.value === '') data.delete(field.name);
}

function isField(element: Element): element is Field {
  return (
    element instanceof HTMLInputElement ||
    element instanceof HTMLTextAreaElement ||
    element instanceof HTMLDataElement
  );
}

function isUseless(act: string, state: PageState): boolean {
  if (act === 'follow') return state.following;
  if (act === 'stop') return !state.following;
  if (act === 'send') return state.fix === undefined;
  if (act === 'remedy') return CONDITIONS['remedy']?.(state) !== true;
  return (act === 'locate' || act === 'submit') && state.status.state === 'waiting' && !state.following;
}

function isOff(element: Element): boolean {
  return element.getAttribute('aria-disabled') === 'true';
}

function setAttribute(element: Element, name: string, value: string | undefined): void {
  if (value === undefined) element.removeAttribute(name);
  else if (element.getAttribute(name) !== value) element.setAttribute(name, value);
}

import { css, html, nothing, type TemplateResult } from 'lit';
import type { Fix } from '../core/fix/fix.js';
import { NoFixError } from '../core/fix/no-fix-error.js';
import { readPosition } from '../core/fix/read-position.js';
import type { Formatter } from '../core/fix/formatter.js';
import type { UnitSystem } from '../core/fix/units.js';
import type { Position } from '../core/geodesy/position.js';
import type { PlaceAnswer } from '../core/place/place.js';
import { serviceError } from '../core/service/service-error.js';
import { find, serviceFailures } from '../core/texts/english.js';
import { partOf } from '../core/texts/part.js';
import type { FindTexts, Texts } from '../core/texts/texts.js';
import { farText } from './far-text.js';
import { ElementFormat } from './element-format.js';
import { ElementTexts } from './element-texts.js';
import type { PlaceService } from '../places/place-service.js';
import type { Receiver } from '../receiver/receiver.js';
import { PAPER } from './paper.js';
import { PaperElement } from './paper-element.js';
import { define } from './define.js';

/** The chosen place, or the typed position. */
export interface FindChoice {
  readonly at: Position;
  /** Text of the choice. */
  readonly text: string;
  /** Absent for a typed position. */
  readonly answer?: PlaceAnswer;
  /** The fix, where the user chose the place where they are. */
  readonly fix?: Fix;
}

/** A line of the list: a place, or the place where the user is, which is not known before it is chosen. */
type Line = FindChoice | { readonly at?: never; readonly text: string; readonly answer?: never };

/** Milliseconds from the last key to the look-up. */
const PAUSE = 120;
/** Maximum number of offered places. */
const OFFERED = 8;

type View =
  | { readonly kind: 'closed' }
  | {
      readonly kind: 'open';
      /** The text that the choices are for. */
      readonly text: string;
      readonly choices: readonly Line[];
      readonly active: number;
      readonly note: string;
    };

/**
 * A field that finds places while the user types: by name or address, or as a position in numbers. Set `places`, and
 * `near` for the order. With a `receiver`, the empty field offers the place where the user is. It dispatches a `choose`
 * event with a `FindChoice` as its detail.
 *
 * A combobox with a list, by the pattern of the ARIA authoring practices: arrows move in the list, Enter chooses,
 * Escape closes. Parts for styling: `field`, `list`, `note`.
 */
export class FindElement extends PaperElement {
  protected static override properties: object = {
    label: { type: String },
    units: { type: String },
    view: { state: true },
  };
  protected static override settable: readonly string[] = ['places', 'near', 'receiver', 'language', 'texts'];
  protected static override styles: unknown = [
    PAPER,
    css`
      :host {
        display: block;
        position: relative;
        max-width: 34rem;
      }
      label {
        display: block;
        font-size: 0.9rem;
        color: var(--gold-text);
      }
      input {
        box-sizing: border-box;
        width: 100%;
        min-height: 44px;
        padding: 0.3rem 0.7rem;
        border: 1.5px solid var(--ink);
        border-radius: 2px;
        background: var(--paper);
        color: var(--ink);
        font: inherit;
      }
      input:focus-visible {
        outline: 3px solid var(--violet);
        outline-offset: 1px;
      }
      .sheet {
        position: absolute;
        z-index: 5;
        left: 0;
        right: 0;
        margin-top: -1.5px;
        border: 1.5px solid var(--ink);
        background: var(--paper);
      }
      ul {
        margin: 0;
        padding: 0;
        list-style: none;
        max-height: 60vh;
        overflow-y: auto;
      }
      li {
        display: flex;
        justify-content: space-between;
        gap: 1rem;
        min-height: 44px;
        align-items: center;
        padding: 0.15rem 0.7rem;
        cursor: pointer;
      }
      li + li {
        border-top: 1px solid color-mix(in srgb, var(--ink) 25%, transparent);
      }
      li[aria-selected='true'] {
        background: var(--ink);
        color: var(--parchment);
      }
      @media (forced-colors: active) {
        li[aria-selected='true'] {
          forced-color-adjust: none;
          background: Highlight;
          color: HighlightText;
        }
      }
      small {
        display: block;
        font-size: 0.88rem;
      }
      .far {
        white-space: nowrap;
        font-size: 0.92rem;
      }
      .note {
        margin: 0;
        padding: 0.35rem 0.7rem;
        font-size: 0.95rem;
        color: var(--gold-text);
      }
      .note:empty {
        display: none;
      }
    `,
  ];

  /** Label of the field. */
  declare label: string | undefined;
  /** Units of distances. Default `metric`. */
  declare units: UnitSystem | undefined;
  declare protected view: View;
  /** Service that answers the look-ups. */
  places: PlaceService | undefined;
  /** Position whose neighbourhood comes first, and from which distances are shown. */
  near: Position | undefined;
  /** Finds the place where the user is, if they choose that. */
  receiver: Receiver | undefined;
  /** BCP 47 tags of names, the preferred one first. */
  language: string | readonly string[] | undefined;
  readonly #language = new ElementTexts(this, () => this.requestUpdate());
  #timer: ReturnType<typeof setTimeout> | undefined;
  #cancel = new AbortController();
  readonly #formats = new ElementFormat();
  /** Enter was pressed before the answer to the typed text: the first choice is taken when it comes. */
  #hurry = false;
  /** The place where the user is is being found: the field may lose the focus to a prompt meanwhile. */
  #finding = false;

  constructor() {
    super();
    this.view = { kind: 'closed' };
  }

  /** Texts for the user. Default: those of the nearest `lang` around the field, else of the browser's languages. */
  get texts(): Texts | undefined {
    return this.#language.own;
  }
  set texts(texts: Texts | undefined) {
    this.#language.own = texts;
  }

  override connectedCallback(): void {
    super.connectedCallback();
    void this.#language.load();
  }

  override disconnectedCallback(): void {
    super.disconnectedCallback();
    this.close();
  }

  /** Closes the list, and cancels a pending look-up. */
  close(): void {
    clearTimeout(this.#timer);
    this.#cancel.abort();
    this.#hurry = this.#finding = false;
    this.view = { kind: 'closed' };
  }

  protected override render(): unknown {
    const { view } = this;
    const open = view.kind === 'open' && (view.choices.length > 0 || view.note !== '');
    const active = view.kind === 'open' && view.active >= 0 ? `choice-${view.active}` : nothing;
    return html`
      <label for="field">${this.label ?? this.#texts.label}</label>
      <input
        id="field"
        part="field"
        type="text"
        role="combobox"
        autocomplete="off"
        spellcheck="false"
        aria-autocomplete="list"
        aria-controls="list"
        aria-expanded=${open && view.choices.length > 0 ? 'true' : 'false'}
        aria-activedescendant=${active}
        @input=${() => this.#typed()}
        @keydown=${(event: KeyboardEvent) => this.#key(event)}
        @focus=${() => this.#offerHere()}
        @blur=${() => this.#finding || this.close()}
      />
      <div class="sheet" ?hidden=${!open}>
        <p class="note" part="note" role="status">${view.kind === 'open' ? view.note : ''}</p>
        <ul id="list" part="list" role="listbox" aria-label=${this.label ?? this.#texts.label}>
          ${view.kind === 'open' ? this.#options(view) : nothing}
        </ul>
      </div>
    `;
  }

  #options({ choices, active }: Extract<View, { kind: 'open' }>): TemplateResult[] {
    return choices.map((choice, i) => this.#option(choice, i, active, isAlike(choice, choices)));
  }

  #option({ text, answer }: Line, i: number, active: number, alike: boolean): TemplateResult {
    const more = alike && answer !== undefined ? apartOf(answer) : '';
    return html`<li
      id=${`choice-${i}`}
      role="option"
      aria-selected=${i === active ? 'true' : 'false'}
      @pointerdown=${(event: Event) => event.preventDefault()}
      @click=${() => this.#choose(i)}
    >
      <span>${text}${more === '' ? nothing : html`<small>${more}</small>`}</span
      ><span class="far">${answer === undefined ? '' : farText(answer, this.#format)}</span>
    </li>`;
  }

  get #format(): Formatter {
    return this.#formats.of(this.#language.current?.language ?? 'en', this.units);
  }

  get #texts(): FindTexts {
    return partOf(this.#language.current, 'find', find);
  }

  get #text(): string {
    return this.#field?.value.trim() ?? '';
  }

  get #field(): HTMLInputElement | null {
    return this.renderRoot.querySelector('input');
  }

  #typed(): void {
    clearTimeout(this.#timer);
    this.#cancel.abort();
    this.#hurry = this.#finding = false;
    const text = this.#text;
    if (text === '') {
      this.close();
      this.#offerHere();
      return;
    }
    this.#timer = setTimeout(() => void this.#look(text), PAUSE);
  }

  /** In the empty field: the place where the user is. */
  #offerHere(): void {
    if (this.receiver === undefined || this.#text !== '' || this.#finding) return;
    this.view = { kind: 'open', text: '', choices: [{ text: this.#texts.here }], active: -1, note: '' };
  }

  /** Finds where the user is, and chooses that. A failure is shown under the field. */
  async #locate(receiver: Receiver): Promise<void> {
    const cancel = (this.#cancel = new AbortController());
    this.#finding = true;
    const note = (text: string) => {
      this.view = { kind: 'open', text: '', choices: [], active: -1, note: text };
    };
    note(this.#texts.finding);
    try {
      const fix = await receiver.fix({ signal: cancel.signal });
      const answer = await this.#nameOf(fix, cancel.signal);
      if (cancel.signal.aborted) return;
      const { lat, lon } = fix;
      const text = answer?.text ?? `${this.#texts.position} ${this.#format.position(fix)}`;
      this.#take({ at: { lat, lon }, text, fix, ...(answer !== undefined && { answer }) });
    } catch (error) {
      this.#finding = false;
      if (cancel.signal.aborted) return;
      if (!(error instanceof NoFixError)) throw error;
      note(`${error.userText} ${error.remedy.text}`);
    }
  }

  /** What is where the user is; the place counts without its name too. */
  async #nameOf(fix: Fix, signal: AbortSignal): Promise<PlaceAnswer | undefined> {
    const { language } = this;
    try {
      const answers = await this.places?.at(fix, { signal, ...(language !== undefined && { language }) });
      return answers?.[0];
    } catch {
      return undefined;
    }
  }

  async #look(text: string): Promise<void> {
    const cancel = (this.#cancel = new AbortController());
    try {
      const choices = this.#asPosition(text) ?? (await this.#asName(text, cancel.signal));
      if (cancel.signal.aborted) return;
      const slips = choices.length > 0 && choices.every(({ answer }) => answer?.match === 'misspelt');
      const note = choices.length === 0 ? this.#texts.nothing : slips ? this.#texts.similar : '';
      this.view = { kind: 'open', text, choices, active: -1, note };
      if (this.#hurry) this.#choose(0);
    } catch (cause) {
      if (cancel.signal.aborted) return;
      this.view = {
        kind: 'open',
        text,
        choices: [],
        active: -1,
        note: partOf(this.#language.current, 'serviceFailures', serviceFailures)[serviceError(cause).kind],
      };
    }
  }

  /** The choice for a text that is a position; empty for an impossible position. */
  #asPosition(text: string): readonly FindChoice[] | undefined {
    try {
      const at = readPosition(text);
      return at === undefined
        ? undefined
        : [{ at, text: `${this.#texts.position} ${this.#format.position(at)}` }];
    } catch {
      return [];
    }
  }

  async #asName(text: string, signal: AbortSignal): Promise<readonly FindChoice[]> {
    const { near, language } = this;
    const found = await this.places?.named(text.slice(0, 200), {
      signal,
      max: OFFERED,
      ...(near !== undefined && { near }),
      ...(language !== undefined && { language }),
    });
    return (found ?? []).map((answer) => ({
      at: { lat: answer.lat, lon: answer.lon },
      text: answer.text,
      answer,
    }));
  }

  #key(event: KeyboardEvent): void {
    const { view } = this;
    if (event.key === 'Escape') {
      this.close();
      return;
    }
    if (event.key === 'Enter') {
      event.preventDefault();
      this.#enter();
      return;
    }
    if (view.kind === 'closed' || view.choices.length === 0) return;
    const count = view.choices.length;
    const steps: Readonly<Record<string, number>> = { ArrowDown: 1, ArrowUp: -1 };
    const step = steps[event.key];
    if (step !== undefined) {
      event.preventDefault();
      // From the field down to the first, up to the last, and around.
      const from = view.active < 0 && step < 0 ? 0 : view.active;
      this.view = { ...view, active: (from + step + count) % count };
      void this.updateComplete.then(() =>
        this.renderRoot.querySelector('[aria-selected="true"]')?.scrollIntoView({ block: 'nearest' }),
      );
    }
  }

  /** Chooses from the list of what is typed now, never of what was typed before. */
  #enter(): void {
    const { view } = this;
    const text = this.#text;
    // The empty field offers the place where the user is, which Enter alone does not choose.
    if (view.kind === 'open' && view.text === text && (text !== '' || view.active >= 0)) {
      this.#choose(Math.max(0, view.active));
    } else if (text !== '') {
      this.#hurry = true;
      clearTimeout(this.#timer);
      this.#cancel.abort();
      void this.#look(text);
    }
  }

  #choose(i: number): void {
    const choice = this.view.kind === 'open' ? this.view.choices[i] : undefined;
    if (choice === undefined) return;
    if (choice.at !== undefined) this.#take(choice);
    else if (this.receiver !== undefined) void this.#locate(this.receiver);
  }

  #take(choice: FindChoice): void {
    this.#hurry = false;
    const field = this.#field;
    if (field !== null) field.value = choice.text;
    this.close();
    this.dispatchEvent(
      new CustomEvent<FindChoice>('choose', { detail: choice, bubbles: true, composed: true }),
    );
  }
}

/** Whether another choice has the same text, so that they must be told apart. */
function isAlike({ text }: Line, choices: readonly Line[]): boolean {
  return choices.filter((choice) => choice.text === text).length > 1;
}

/** What tells places of one name apart: the kind, and the parts of the address that the name does not have. */
function apartOf({ kind, street, locality, region, country, text }: PlaceAnswer): string {
  const parts = [street, locality, region, country].filter(
    (part) => part !== undefined && !text.includes(part),
  );
  return [kind, ...parts].join(', ');
}

define('aurelian-find', FindElement);

declare global {
  interface HTMLElementTagNameMap {
    'aurelian-find': FindElement;
  }
  interface GlobalEventHandlersEventMap {
    /** Dispatched by `<aurelian-find>` and `<aurelian-near>`. */
    choose: CustomEvent<FindChoice>;
  }
}

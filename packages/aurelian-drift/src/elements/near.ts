import { css, html, nothing, type TemplateResult } from 'lit';
import type { Formatter } from '../core/fix/formatter.js';
import type { UnitSystem } from '../core/fix/units.js';
import { openingOf, type Opening } from '../core/place/opening.js';
import type { PlaceAnswer } from '../core/place/place.js';
import { near, serviceFailures } from '../core/texts/english.js';
import { filled, partOf } from '../core/texts/part.js';
import type { NearTexts, Texts } from '../core/texts/texts.js';
import { NearWatch } from '../places/near-watch.js';
import type { PlaceService } from '../places/place-service.js';
import type { PlaceReading } from '../places/place-watch.js';
import type { Receiver } from '../receiver/receiver.js';
import { tellAuthor } from './attribute-values.js';
import { ElementFormat } from './element-format.js';
import { ElementTexts } from './element-texts.js';
import { farText } from './far-text.js';
import type { FindChoice } from './find.js';
import { PAPER } from './paper.js';
import { PaperElement } from './paper-element.js';
import { define } from './define.js';

/** Milliseconds between two looks at the hours. */
const MINUTE = 60_000;

/**
 * The places around the user, as a list: the nearest first, with distance and direction, kind, and whether they are
 * open now. Looked up again only after real movement. Pressing a place shows its details, and dispatches `choose` with a
 * `FindChoice`.
 *
 * Set `places` and `receiver`; inside `<aurelian-receiver>` both are set. Attributes: `within` (metres, default 2000),
 * `kinds` (separated by commas, default spots and localities), `max` (default 10), `open-now` (only what is open, or
 * has no hours), `label`, `units`. Hours are the detail `opening` of a place: see `openingOf`. Parts for styling: `list`,
 * `place`, `note`.
 */
export class NearElement extends PaperElement {
  protected static override properties: object = {
    within: { type: Number },
    kinds: { type: String },
    max: { type: Number },
    openNow: { type: Boolean, attribute: 'open-now' },
    label: { type: String },
    units: { type: String },
  };
  protected static override settable: readonly string[] = ['places', 'receiver', 'texts'];
  protected static override styles: unknown = [
    PAPER,
    css`
      :host {
        display: block;
      }
      h2 {
        margin: 0;
        font-size: 1rem;
        color: var(--gold-text);
      }
      ul {
        margin: 0.2rem 0 0;
        padding: 0;
        list-style: none;
        border-top: 1px solid var(--ink);
      }
      li {
        border-bottom: 1px solid var(--ink);
      }
      summary {
        display: grid;
        grid-template-columns: 1fr auto;
        gap: 0 0.8rem;
        padding: 0.45rem 0.2rem;
        min-height: 2.4rem;
        cursor: pointer;
        list-style: none;
      }
      summary::-webkit-details-marker {
        display: none;
      }
      summary:focus-visible {
        outline: 3px solid var(--violet);
        outline-offset: -2px;
      }
      .name {
        font-weight: 600;
      }
      .far,
      .far ~ small:last-child:not(:only-of-type) {
        text-align: end;
        white-space: nowrap;
      }
      small {
        font-size: 0.9rem;
      }
      .closed {
        color: var(--alert-text);
      }
      dl {
        display: grid;
        grid-template-columns: max-content 1fr;
        gap: 0 0.8rem;
        margin: 0 0.2rem 0.6rem;
        font-size: 0.95rem;
      }
      dt {
        color: var(--gold-text);
      }
      dd {
        margin: 0;
        overflow-wrap: anywhere;
      }
      .note {
        margin: 0.3rem 0;
      }
      .text {
        margin: 0 0.2rem 0.4rem;
        font-size: 0.95rem;
      }
    `,
  ];

  /** Maximum distance in metres. Default 2000. */
  declare within: number | undefined;
  /** Wanted kinds, separated by commas. */
  declare kinds: string | undefined;
  /** Maximum number of places. Default 10. */
  declare max: number | undefined;
  /** Leave out what is closed now. */
  declare openNow: boolean | undefined;
  /** Heading of the list; an empty one for none. */
  declare label: string | undefined;
  /** Units of distances. Default `metric`. */
  declare units: UnitSystem | undefined;
  readonly #language = new ElementTexts(this, () => this.requestUpdate());
  readonly #formats = new ElementFormat();
  #places: PlaceService | undefined;
  #receiver: Receiver | undefined;
  #watch: NearWatch | undefined;
  #asked = '';
  #ends: (() => void)[] = [];

  /** Service that answers the look-ups. */
  get places(): PlaceService | undefined {
    return this.#places;
  }
  set places(places: PlaceService | undefined) {
    this.#places = places;
    this.#begin();
  }

  /** Receiver whose fixes say where the user is. */
  get receiver(): Receiver | undefined {
    return this.#receiver;
  }
  set receiver(receiver: Receiver | undefined) {
    this.#receiver = receiver;
    this.#begin();
  }

  /** Texts for the user. Default: those of the nearest `lang`. */
  get texts(): Texts | undefined {
    return this.#language.own;
  }
  set texts(texts: Texts | undefined) {
    this.#language.own = texts;
  }

  /** What is known of the places around; `undefined` until there are a service and a receiver. */
  get reading(): PlaceReading | undefined {
    return this.#watch?.$reading.get();
  }

  override connectedCallback(): void {
    super.connectedCallback();
    void this.#language.load();
    this.#begin();
  }

  override disconnectedCallback(): void {
    super.disconnectedCallback();
    this.#end();
  }

  protected override updated(): void {
    // Another question: asked anew.
    if (this.#watch !== undefined && this.#asked !== this.#question) this.#begin();
  }

  protected override render(): unknown {
    const texts = this.#texts;
    const { reading } = this;
    const answers = this.#shown(reading?.answers ?? []);
    const label = this.label ?? texts.label;
    return html`
      ${label === '' ? nothing : html`<h2>${label}</h2>`}
      <p class="note" part="note" role="status">${this.#note(reading, answers.length)}</p>
      ${
        answers.length === 0
          ? nothing
          : html`<ul part="list">
              ${answers.map((answer) => this.#place(answer))}
            </ul>`
      }
    `;
  }

  #place(answer: PlaceAnswer): TemplateResult {
    const { name, text, kind, details = {} } = answer;
    const far = farText(answer, this.#format);
    const rows = Object.entries(details).filter(([key, value]) => key !== 'opening' && isPlain(value));
    return html`<li>
      <details name="near" @toggle=${(event: Event) => this.#toggled(event, answer)}>
        <summary part="place">
          <span class="name">${name ?? text}</span><span class="far">${far}</span>
          <small>${kind}</small>${this.#hours(answer)}
        </summary>
        ${text === name ? nothing : html`<p class="text">${text}</p>`}
        ${
          rows.length === 0
            ? nothing
            : html`<dl>
                ${rows.map(
                  ([key, value]) =>
                    html`<dt>${key}</dt>
                      <dd>${String(value)}</dd>`,
                )}
              </dl>`
        }
      </details>
    </li>`;
  }

  #hours(answer: PlaceAnswer): TemplateResult | typeof nothing {
    const opening = openingFor(answer);
    if (opening === undefined) return nothing;
    const texts = this.#texts;
    const { open, until } = opening;
    // A time of day is clear within the next day only.
    const soon = until !== undefined && until - Date.now() < 86_400_000;
    const text = !soon
      ? open
        ? texts.open
        : texts.closed
      : filled(open ? texts.openUntil : texts.closedUntil, { time: this.#format.clock(until).slice(0, 5) });
    return html`<small class=${open ? 'open' : 'closed'}>${text}</small>`;
  }

  #shown(answers: readonly PlaceAnswer[]): readonly PlaceAnswer[] {
    return this.openNow === true ? answers.filter((each) => openingFor(each)?.open !== false) : answers;
  }

  #note(reading: PlaceReading | undefined, count: number): string {
    const texts = this.#texts;
    if (reading === undefined || reading.state === 'none') return texts.unknown;
    if (reading.state === 'failed' && reading.error !== undefined) {
      return partOf(this.#language.current, 'serviceFailures', serviceFailures)[reading.error.kind];
    }
    if (count > 0) return '';
    return reading.state === 'looking' ? texts.looking : texts.nothing;
  }

  #toggled(event: Event, answer: PlaceAnswer): void {
    if (!(event.target as HTMLDetailsElement).open) return;
    const { lat, lon, text } = answer;
    const detail: FindChoice = { at: { lat, lon }, text, answer };
    this.dispatchEvent(new CustomEvent('choose', { detail, bubbles: true, composed: true }));
  }

  get #texts(): NearTexts {
    return partOf(this.#language.current, 'near', near);
  }

  get #format(): Formatter {
    return this.#formats.of(this.#language.current?.language ?? 'en', this.units);
  }

  /** The question, as text. */
  get #question(): string {
    return `${this.within ?? ''} ${this.kinds ?? ''} ${this.max ?? ''}`;
  }

  #begin(): void {
    this.#end();
    const [places, receiver] = [this.#places, this.#receiver];
    if (!this.isConnected || places === undefined || receiver === undefined) return;
    this.#asked = this.#question;
    const kinds = this.kinds?.split(',').map((kind) => kind.trim());
    try {
      const watch = new NearWatch({
        places,
        within: this.within ?? 2000,
        max: this.max ?? 10,
        ...(kinds !== undefined && { kinds }),
      });
      this.#watch = watch;
      const timer = setInterval(() => this.requestUpdate(), MINUTE);
      this.#ends = [
        receiver.$fix.subscribe((fix) => fix && watch.take(fix)),
        watch.$reading.listen(() => this.requestUpdate()),
        () => watch.close(),
        () => clearInterval(timer),
      ];
    } catch (error) {
      tellAuthor(error); // an attribute with an impossible value
    }
    this.requestUpdate();
  }

  #end(): void {
    for (const end of this.#ends.splice(0)) end();
    this.#watch = undefined;
  }
}

/** Openings in the present minute, by the hours of a place. */
const openings = new WeakMap<object, { readonly minute: number; readonly opening: Opening | undefined }>();

/** Hours with a mistake are told, and left out. */
function openingFor(answer: PlaceAnswer): Opening | undefined {
  const hours = answer.details?.['opening'];
  if (typeof hours !== 'object' || hours === null) return undefined;
  const minute = Math.floor(Date.now() / MINUTE);
  const known = openings.get(hours);
  if (known?.minute === minute) return known.opening;
  let opening: Opening | undefined;
  try {
    opening = openingOf(answer, Date.now());
  } catch (error) {
    tellAuthor(`the hours of ${answer.text}: ${(error as Error).message}`);
  }
  openings.set(hours, { minute, opening });
  return opening;
}

function isPlain(value: unknown): boolean {
  return typeof value === 'string' || typeof value === 'number';
}

define('aurelian-near', NearElement);

declare global {
  interface HTMLElementTagNameMap {
    'aurelian-near': NearElement;
  }
}

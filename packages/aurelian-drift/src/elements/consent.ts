import { css, html, nothing, type TemplateResult } from 'lit';
import type { NoFixError } from '../core/fix/no-fix-error.js';
import type { RemedyId } from '../core/fix/no-fix-kinds.js';
import type { Explanation, Explain } from '../receiver/explain.js';
import type { Receiver } from '../receiver/receiver.js';
import { consent } from '../core/texts/english.js';
import { failureText } from '../core/texts/failure-text.js';
import { partOf } from '../core/texts/part.js';
import type { ConsentTexts, Texts } from '../core/texts/texts.js';
import { ElementTexts } from './element-texts.js';
import { PAPER } from './paper.js';
import { PaperElement } from './paper-element.js';
import { define } from './define.js';

/**
 * A card that explains the purpose before the system asks: the reason, an optional link to more, “Continue” and “Not
 * now”. “Not now” leaves the prompt of the system unused. After a failure the card shows the remedy, with a button
 * where the platform allows the app to carry it out.
 *
 * Give `explain` to the receiver, and the receiver to the card: `const receiver = new Receiver({ …, explain:
 * card.explain }); card.receiver = receiver;`
 *
 * Parts for styling: `card`, `title`, `text`, `go-on`, `not-now`, `more`. The language is that of the nearest `lang`.
 */
export class ConsentElement extends PaperElement {
  protected static override properties: object = {
    reason: { type: String },
    more: { type: String },
    view: { state: true },
  };
  protected static override settable: readonly string[] = ['receiver', 'texts'];
  protected static override styles: unknown = [
    PAPER,
    css`
      :host {
        display: block;
      }
      .card {
        border: 1.5px solid var(--ink);
        background: var(--paper);
        padding: 0.9rem 1.1rem 1rem;
        max-width: 34rem;
      }
      .card:focus-visible {
        outline: 3px solid var(--violet);
        outline-offset: 2px;
      }
      h2 {
        margin: 0 0 0.35rem;
        font-size: 1.15rem;
      }
      p {
        margin: 0 0 0.8rem;
      }
      .what {
        font-weight: 600;
        color: var(--alert-text);
      }
      .neutral .what {
        color: inherit;
      }
      .acts {
        display: flex;
        flex-wrap: wrap;
        gap: 0.6rem;
        align-items: center;
        margin: 0;
      }
    `,
  ];

  /** Reason in a sentence. Default: the purpose of the receiver. */
  declare reason: string | undefined;
  /** Address of a page with more information. */
  declare more: string | undefined;
  declare protected view:
    { kind: 'closed' } | { kind: 'purpose'; purpose: string } | { kind: 'failed'; error: NoFixError };
  protected readonly language = new ElementTexts(this, () => this.requestUpdate());
  #receiver: Receiver | undefined;
  #unwatch = () => {};
  #answer: ((answer: Explanation) => void) | undefined;

  constructor() {
    super();
    this.view = { kind: 'closed' };
  }

  /** For `new Receiver({ explain })`: shows the card and waits for the choice of the user. */
  readonly explain: Explain = (purpose) => {
    this.#choose('not-now');
    this.view = { kind: 'purpose', purpose };
    return new Promise((resolve) => (this.#answer = resolve));
  };

  /** Texts for the user. Default: those of the nearest `lang` around the card, else of the browser's languages. */
  get texts(): Texts | undefined {
    return this.language.own;
  }
  set texts(texts: Texts | undefined) {
    this.language.own = texts;
  }

  /** Receiver whose failures the card shows with their remedies. */
  get receiver(): Receiver | undefined {
    return this.#receiver;
  }
  set receiver(receiver: Receiver | undefined) {
    this.#unwatch();
    this.#receiver = receiver;
    if (this.isConnected) this.#watch();
  }

  override connectedCallback(): void {
    super.connectedCallback();
    void this.language.load();
    this.#watch();
  }

  override disconnectedCallback(): void {
    super.disconnectedCallback();
    this.#unwatch();
    this.#choose('not-now'); // a pending explanation gets an answer
  }

  protected override updated(changed: ReadonlyMap<PropertyKey, unknown>): void {
    if (changed.has('view') && this.view.kind !== 'closed') {
      this.renderRoot.querySelector<HTMLElement>('.card')?.focus();
    }
  }

  protected override render(): unknown {
    const language = this.language.current?.language ?? 'en';
    const texts = partOf(this.language.current, 'consent', consent);
    switch (this.view.kind) {
      case 'closed':
        return nothing;
      case 'purpose':
        return this.#card(
          language,
          'dialog',
          texts.title,
          html`
            <p part="text">${this.reason ?? this.view.purpose} ${this.#link(texts)}</p>
            <p class="acts">
              <button part="go-on" class="main" @click=${() => this.#choose('go-on')}>${texts.goOn}</button>
              <button part="not-now" @click=${() => this.#choose('not-now')}>${texts.notNow}</button>
            </p>
          `,
        );
      case 'failed': {
        const { error } = this.view;
        const { happened, help } = failureText(error.kind, error.inApp, this.language.current);
        const { act } = error.remedy;
        return this.#card(
          language,
          error.neutral ? 'status' : 'alert',
          undefined,
          html`
            <p class="what" part="title">${happened}</p>
            <p part="text">${help}</p>
            <p class="acts">
              ${
                act === undefined
                  ? nothing
                  : html`<button part="act" class="main" @click=${() => this.#act(act)}>
                      ${actText(error.remedy.id, texts)}
                    </button>`
              }
              <button part="close" @click=${() => (this.view = { kind: 'closed' })}>${texts.close}</button>
            </p>
          `,
        );
      }
    }
  }

  #card(language: string, role: string, title: string | undefined, content: TemplateResult): TemplateResult {
    return html`<div
      class="card ${role === 'status' ? 'neutral' : ''}"
      part="card"
      role=${role}
      lang=${language}
      tabindex="-1"
      aria-labelledby=${title === undefined ? nothing : 'title'}
      @keydown=${(event: KeyboardEvent) => this.#key(event)}
    >
      ${title === undefined ? nothing : html`<h2 id="title" part="title">${title}</h2>`} ${content}
    </div>`;
  }

  /** Only http and https: other addresses could run code. */
  #link(texts: ConsentTexts): TemplateResult | typeof nothing {
    if (this.more === undefined || !URL.canParse(this.more, document.baseURI)) return nothing;
    const { protocol, href } = new URL(this.more, document.baseURI);
    if (!/^https?:$/.test(protocol)) return nothing;
    return html`<a part="more" href=${href} target="_blank" rel="noopener">${texts.more}</a>`;
  }

  #key({ key }: KeyboardEvent): void {
    if (key !== 'Escape') return;
    this.#choose('not-now');
    this.view = { kind: 'closed' };
  }

  #choose(answer: Explanation): void {
    const settle = this.#answer;
    if (settle === undefined) return;
    this.#answer = undefined;
    this.view = { kind: 'closed' };
    settle(answer);
  }

  #act(act: () => Promise<unknown>): void {
    this.view = { kind: 'closed' };
    void act();
  }

  #watch(): void {
    this.#unwatch();
    const receiver = this.#receiver;
    if (receiver === undefined) return;
    const ends = [
      receiver.$status.listen((status) => {
        if (status.state === 'failed') this.view = { kind: 'failed', error: status.error };
        else if (this.view.kind === 'failed') this.view = { kind: 'closed' };
      }),
      // Settled elsewhere, such as in the settings: the card is no longer needed.
      receiver.$access.listen(({ remedy }) => {
        if (
          remedy === undefined &&
          this.view.kind === 'failed' &&
          this.view.error.remedy.id === 'open-settings'
        ) {
          this.view = { kind: 'closed' };
        }
      }),
    ];
    this.#unwatch = () => ends.forEach((end) => end());
  }
}

function actText(remedy: RemedyId, { turnOn, openSettings, askAgain }: ConsentTexts): string {
  if (remedy === 'turn-on-switch') return turnOn;
  return remedy === 'open-settings' || remedy === 'allow-precise' ? openSettings : askAgain;
}

define('aurelian-consent', ConsentElement);

declare global {
  interface HTMLElementTagNameMap {
    'aurelian-consent': ConsentElement;
  }
}

import { css, html, type TemplateResult } from 'lit';
import { accuracyText, ageText, durationText, positionText } from '../core/fix/words.js';
import type { Receiver } from '../receiver/receiver.js';
import { PAPER } from './paper.js';
import { PaperElement } from './paper-element.js';

/**
 * For developers: shows the state of a receiver, live. The last fix with all fields, the access, the running follows,
 * the time with the receiver on, the deliveries of the source, and the diagnostics.
 */
export class InspectorElement extends PaperElement {
  protected static override settable: readonly string[] = ['receiver'];
  protected static override styles: unknown = [
    PAPER,
    css`
      :host {
        display: block;
        background: var(--parchment);
        font-size: 0.92rem;
        line-height: 1.35;
      }
      section {
        border-top: 1px solid var(--ink);
        padding: 0.35rem 0.6rem;
      }
      strong {
        font-size: 0.95rem;
      }
      dl {
        display: grid;
        grid-template-columns: minmax(9em, max-content) 1fr;
        gap: 0 0.8rem;
        margin: 0;
      }
      dt {
        color: var(--gold-text);
      }
      dd {
        margin: 0;
        overflow-wrap: anywhere;
      }
    `,
  ];
  #receiver: Receiver | undefined;
  #ends: (() => void)[] = [];

  get receiver(): Receiver | undefined {
    return this.#receiver;
  }
  set receiver(receiver: Receiver | undefined) {
    this.#receiver = receiver;
    if (this.isConnected) this.#watch();
    this.requestUpdate();
  }

  override connectedCallback(): void {
    super.connectedCallback();
    this.#watch();
  }

  override disconnectedCallback(): void {
    super.disconnectedCallback();
    this.#release();
  }

  protected override render(): unknown {
    const receiver = this.#receiver;
    if (receiver === undefined) return html`<section>No receiver: set this element’s receiver.</section>`;
    const { remedy, ...access } = receiver.$access.get();
    const { receiverOn, fine, rough, openWatches, watchesOpened } = receiver.usage;
    const last = receiver.lastFix();
    return html`
      ${rows('Last fix', last === undefined ? [['', 'none']] : [...entries(last.fix), ['age', ageText(last.age)]])}
      ${rows('Access', [...entries(access), ['remedy', remedy?.id ?? 'none']])}
      ${rows('Status', [
        ['state', receiver.$status.get().state],
        ['tracking', JSON.stringify(receiver.$tracking.get())],
      ])}
      ${rows(
        'Follows',
        receiver.follows.length === 0
          ? [['', 'none']]
          : receiver.follows.map((follow, i) => [
              String(i + 1),
              `${follow.state}, ${follow.passed} passed, ${follow.missed} missed, ${follow.reach}`,
            ]),
      )}
      ${rows('Receiver on', [
        ['in all', durationText(receiverOn)],
        ['fine, rough', `${durationText(fine)}, ${durationText(rough)}`],
        ['watches', `${openWatches} open, ${watchesOpened} opened so far`],
      ])}
      ${rows('From the source', entries(receiver.deliveries))}
      ${rows(
        'Notices',
        receiver.$diagnostics
          .get()
          .map(({ kind, text, count }) => [kind, `${text}${count > 1 ? ` (${count} times)` : ''}`]),
      )}
    `;
  }

  #watch(): void {
    this.#release();
    const receiver = this.#receiver;
    if (receiver === undefined) return;
    const refresh = () => this.requestUpdate();
    const timer = setInterval(refresh, 1000); // ages and time with the receiver on
    this.#ends = [
      ...[receiver.$fix, receiver.$access, receiver.$status, receiver.$tracking, receiver.$diagnostics].map(
        (live) => live.listen(refresh),
      ),
      () => clearInterval(timer),
    ];
  }

  #release(): void {
    for (const end of this.#ends.splice(0)) end();
  }
}

function rows(title: string, items: readonly (readonly [string, string])[]): TemplateResult {
  return html`<section aria-label=${title}>
    <strong>${title}</strong>
    <dl>
      ${items.map(
        ([name, value]) =>
          html`<dt>${name}</dt>
            <dd>${value}</dd>`,
      )}
    </dl>
  </section>`;
}

/** All fields of an object, formatted where there is a format. */
function entries(items: object): [string, string][] {
  const found: [string, string][] = Object.entries(items).map(([name, value]) => [
    name,
    formatted(name, value),
  ]);
  const { lat, lon } = items as { lat?: number; lon?: number };
  return lat === undefined || lon === undefined
    ? found
    : [['position', positionText({ lat, lon })], ...found];
}

function formatted(name: string, value: unknown): string {
  if (name === 'time' && typeof value === 'number') return new Date(value).toISOString();
  if (name === 'accuracy' && typeof value === 'number') return accuracyText(value);
  if (Array.isArray(value)) return value.length === 0 ? 'none' : value.join(', ');
  return String(value);
}

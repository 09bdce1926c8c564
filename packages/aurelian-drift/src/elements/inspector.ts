import { css, html, nothing, type TemplateResult } from 'lit';
import type { Fix } from '../core/fix/fix.js';
import { accuracyText, ageText, durationText, positionText, speedText } from '../core/fix/words.js';
import type { Receiver } from '../receiver/receiver.js';
import { define } from './define.js';
import { PAPER } from './paper.js';
import { PaperElement } from './paper-element.js';

/** Number of fixes in the table. */
const SHOWN = 20;

/**
 * For developers: shows the state of a receiver, live. The last fix with all fields, the access, the running follows,
 * the time with the receiver on, the deliveries of the source, the last fixes with their marks, and the diagnostics.
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
      .wide {
        overflow-x: auto;
      }
      table {
        border-collapse: collapse;
      }
      th {
        color: var(--gold-text);
        font-weight: 400;
        text-align: start;
      }
      th,
      td {
        padding: 0 0.8rem 0 0;
        white-space: nowrap;
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
      ${rows('From the source', entries(receiver.deliveries))} ${recent(receiver.recentFixes)}
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

/** The last fixes as a table, the newest first. */
function recent(fixes: readonly Fix[]): TemplateResult | typeof nothing {
  if (fixes.length === 0) return nothing;
  const head = ['Time', 'Position', 'Accuracy', 'Speed', 'Marks'];
  return html`<section aria-label="Recent fixes">
    <strong>Recent fixes</strong>
    <div class="wide" tabindex="0" role="group" aria-label="Recent fixes">
      <table>
        <thead>
          <tr>
            ${head.map((each) => html`<th scope="col">${each}</th>`)}
          </tr>
        </thead>
        <tbody>
          ${[...fixes]
            .reverse()
            .slice(0, SHOWN)
            .map(
              (fix) =>
                html`<tr>
                  <td>${new Date(fix.time).toISOString().slice(11, 19)}</td>
                  <td>${positionText(fix)}</td>
                  <td>${accuracyText(fix.accuracy)}</td>
                  <td>${fix.speed === undefined ? '' : speedText(fix.speed)}</td>
                  <td>${fix.marks?.join(', ') ?? ''}</td>
                </tr>`,
            )}
        </tbody>
      </table>
    </div>
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

define('aurelian-inspector', InspectorElement);

declare global {
  interface HTMLElementTagNameMap {
    'aurelian-inspector': InspectorElement;
  }
}

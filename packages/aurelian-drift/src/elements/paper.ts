import { css } from 'lit';

/** Colours at dusk. */
const DUSK = css`
  --ink: var(--aurelian-ink, #cdc5bc);
  --paper: var(--aurelian-paper, #2d2a37);
  --parchment: var(--aurelian-parchment, #36323c);
  --violet: var(--aurelian-violet, #afa3b4);
  --gold-text: var(--aurelian-gold-text, #b6a184);
  --alert-text: var(--aurelian-alert-text, #d0a79c);
`;

/**
 * The common look of the elements; an app sets its own colours by the same names. The attribute `theme` is `day`,
 * `dusk`, or `auto` as the device prefers.
 */
export const PAPER = css`
  :host {
    --ink: var(--aurelian-ink, #2b2a33);
    --paper: var(--aurelian-paper, #fbf4e6);
    --parchment: var(--aurelian-parchment, #f5e8d2);
    --violet: var(--aurelian-violet, #5b4a8a);
    --gold-text: var(--aurelian-gold-text, #6e430a);
    --alert-text: var(--aurelian-alert-text, #7f241b);
    color: var(--ink);
    font:
      400 1.0625rem/1.45 'Source Sans 3',
      'Source Sans Pro',
      sans-serif;
    font-variant-numeric: lining-nums tabular-nums;
  }
  :host([theme='dusk']) {
    ${DUSK}
  }
  @media (prefers-color-scheme: dark) {
    :host([theme='auto']) {
      ${DUSK}
    }
  }
  @media (forced-colors: active) {
    button.main {
      border-width: 3px;
    }
  }
  :host([hidden]) {
    display: none;
  }
  button {
    min-height: 44px;
    padding: 0.3rem 1rem;
    border: 1.5px solid var(--ink);
    border-radius: 2px;
    background: var(--paper);
    color: var(--ink);
    font: inherit;
    font-weight: 600;
    cursor: pointer;
  }
  button.main {
    background: var(--ink);
    color: var(--parchment);
  }
  button:focus-visible,
  a:focus-visible {
    outline: 3px solid var(--violet);
    outline-offset: 2px;
  }
  a {
    color: var(--gold-text);
  }
`;

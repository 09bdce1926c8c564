import type { MapTexts } from '../core/texts/texts.js';
import type { SteeringMode } from '../core/scene/steering.js';

/** Actions of the strip of controls. */
export interface StripSink {
  ownPlace(): void;
  /** Follow the own place, or stop following. */
  steer(on: boolean): void;
  /** Turn the map so that the course points up. */
  courseUp(on: boolean): void;
  closer(): void;
  wider(): void;
}

/** State of the strip. */
export interface StripState {
  readonly mode: SteeringMode;
  /** Whether the view follows now. */
  readonly following: boolean;
  readonly ownPlace: boolean;
  readonly closerAllowed: boolean;
  readonly widerAllowed: boolean;
}

/** The controls, in one strip below the map within reach of a thumb. */
export class Strip {
  readonly element: HTMLElement;
  readonly #own: HTMLButtonElement;
  readonly #follow: HTMLButtonElement;
  readonly #course: HTMLButtonElement;
  readonly #closer: HTMLButtonElement;
  readonly #wider: HTMLButtonElement;

  constructor(sink: StripSink) {
    this.element = document.createElement('div');
    this.element.className = 'strip';
    this.element.setAttribute('part', 'strip');
    this.element.setAttribute('role', 'toolbar');
    this.#own = button(() => sink.ownPlace());
    this.#own.classList.add('own');
    this.#own.prepend(kiteDrawing());
    this.#follow = toggle((on) => sink.steer(on));
    this.#course = toggle((on) => sink.courseUp(on));
    this.#closer = button(() => sink.closer());
    this.#wider = button(() => sink.wider());
    this.element.append(this.#own, this.#follow, this.#course, this.#closer, this.#wider);
  }

  /** Writes the labels. */
  label(texts: MapTexts, language: string): void {
    this.element.lang = language;
    this.element.setAttribute('aria-label', texts.controls);
    setLabel(this.#own, texts.ownPlace);
    setLabel(this.#follow, texts.follow);
    setLabel(this.#course, texts.courseUp);
    setLabel(this.#closer, texts.closer);
    setLabel(this.#wider, texts.wider);
  }

  show({ mode, following, ownPlace, closerAllowed, widerAllowed }: StripState): void {
    this.#own.dataset['shown'] = String(ownPlace);
    this.#follow.setAttribute('aria-checked', String(following));
    this.#course.setAttribute('aria-checked', String(following && mode === 'course-up'));
    // A disabled button would lose the focus under the finger that zooms.
    this.#closer.setAttribute('aria-disabled', String(!closerAllowed));
    this.#wider.setAttribute('aria-disabled', String(!widerAllowed));
  }
}

function setLabel(button: HTMLButtonElement, text: string): void {
  const label = button.querySelector('span');
  if (label !== null) label.textContent = text;
}

function button(act: () => void): HTMLButtonElement {
  const made = document.createElement('button');
  made.type = 'button';
  made.append(document.createElement('span'));
  made.addEventListener('click', () => {
    if (made.getAttribute('aria-disabled') !== 'true') act();
  });
  return made;
}

function toggle(act: (on: boolean) => void): HTMLButtonElement {
  const made = button(() => act(made.getAttribute('aria-checked') !== 'true'));
  made.setAttribute('role', 'switch');
  made.classList.add('switch');
  return made;
}

function kiteDrawing(): SVGElement {
  const svg = document.createElementNS('http://www.w3.org/2000/svg', 'svg');
  svg.setAttribute('viewBox', '0 0 12 18');
  svg.setAttribute('aria-hidden', 'true');
  const path = document.createElementNS('http://www.w3.org/2000/svg', 'path');
  path.setAttribute('d', 'M6 1L11 8L6 17L1 8Z');
  svg.append(path);
  return svg;
}

export const STRIP_STYLE = `
  .strip { display: flex; flex-wrap: wrap; border-top: 1px solid var(--ink); background: var(--parchment); }
  .strip button {
    flex: 1 1 auto; min-width: 0; min-height: 48px; padding: 0 .25rem; white-space: nowrap; border: 0;
      border-inline-start: 1px solid var(--ink); background: none; color: var(--ink);
    font: 600 .98rem var(--font); cursor: pointer;
    display: flex; align-items: center; justify-content: center; gap: .45rem;
  }
  .strip button:first-child { border-inline-start: 0; }
  .strip button:hover:not([aria-disabled='true']) { background: var(--sand); }
  .strip button:focus-visible { outline: 3px solid var(--violet); outline-offset: -3px; }
  .strip button[aria-disabled='true'] { color: var(--faint); cursor: default; }
  .strip svg { width: .8rem; height: 1.2rem; flex: none; }
  .strip path { fill: var(--gold); stroke: var(--ink); stroke-width: 1.4; stroke-linejoin: round; }
  .strip [data-shown='false'] path { fill: none; }
  .switch::before { content: ''; flex: none; width: 1.7rem; height: .55rem; border: 1.4px solid var(--ink); background:
    linear-gradient(var(--ink), var(--ink)) left / 45% 100% no-repeat; }
  .switch[aria-checked='true']::before {
    background: linear-gradient(var(--violet), var(--violet)) right / 45% 100% no-repeat, var(--sand); }
  @media (forced-colors: active) {
    .switch::before { forced-color-adjust: none; border-color: ButtonText;
      background: linear-gradient(ButtonText, ButtonText) left / 45% 100% no-repeat, ButtonFace; }
    .switch[aria-checked='true']::before { border-color: Highlight;
      background: linear-gradient(ButtonText, ButtonText) right / 45% 100% no-repeat, Highlight; }
    .strip button[aria-disabled='true'] { color: GrayText; }
    .strip path { forced-color-adjust: none; fill: ButtonText; stroke: ButtonText; }
  }
  @container (max-width: 480px) {
    .strip button { font-size: .88rem; gap: .25rem; padding: 0 .15rem; }
    .strip .own span { position: absolute; clip-path: inset(50%); width: 1px; height: 1px; overflow: hidden; }
    .strip .own { flex: 0 0 46px; }
    .switch::before { width: 1.1rem; }
  }
`;

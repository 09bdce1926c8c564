/** What the strip of controls tells the map. */
export interface StripSink {
  ownPlace(): void;
  follow(on: boolean): void;
  closer(): void;
  wider(): void;
}

/** What the strip shows. */
export interface StripState {
  readonly following: boolean;
  readonly closerAllowed: boolean;
  readonly widerAllowed: boolean;
}

/** The controls, in one strip below the map where a thumb reaches them. */
export class Strip {
  readonly element: HTMLElement;
  readonly #follow: HTMLButtonElement;
  readonly #closer: HTMLButtonElement;
  readonly #wider: HTMLButtonElement;

  constructor(sink: StripSink) {
    this.element = document.createElement('div');
    this.element.className = 'strip';
    this.element.setAttribute('role', 'toolbar');
    this.element.setAttribute('aria-label', 'Map controls');
    const own = button('Own place', () => sink.ownPlace());
    own.prepend(kiteDrawing());
    this.#follow = button('Follow', () => sink.follow(this.#follow.getAttribute('aria-checked') !== 'true'));
    this.#follow.setAttribute('role', 'switch');
    this.#follow.classList.add('switch');
    this.#closer = button('Closer', () => sink.closer());
    this.#wider = button('Wider', () => sink.wider());
    this.element.append(own, this.#follow, this.#closer, this.#wider);
  }

  show({ following, closerAllowed, widerAllowed }: StripState): void {
    this.#follow.setAttribute('aria-checked', String(following));
    this.#closer.disabled = !closerAllowed;
    this.#wider.disabled = !widerAllowed;
  }
}

function button(label: string, act: () => void): HTMLButtonElement {
  const made = document.createElement('button');
  made.type = 'button';
  made.append(label);
  made.addEventListener('click', act);
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
  .strip { display: flex; border-top: 1px solid #2b2a33; background: #f5e8d2; }
  .strip button {
    flex: 1; min-height: 48px; padding: 0 .25rem; white-space: nowrap; border: 0; border-left: 1px solid #2b2a33; background: none; color: #2b2a33;
    font: 600 .98rem 'Source Sans 3', 'Source Sans Pro', sans-serif; cursor: pointer;
    display: flex; align-items: center; justify-content: center; gap: .45rem;
  }
  .strip button:first-child { border-left: 0; }
  .strip button:hover:enabled { background: #ecd3b5; }
  .strip button:focus-visible { outline: 3px solid #5b4a8a; outline-offset: -3px; }
  .strip button:disabled { color: #8b8373; cursor: default; }
  @media (max-width: 420px) { .strip button { font-size: .92rem; gap: .3rem; } }
  .strip svg { width: .8rem; height: 1.2rem; }
  .strip path { fill: #b8791a; stroke: #2b2a33; stroke-width: 1.4; stroke-linejoin: round; }
  .switch::before { content: ''; width: 1.7rem; height: .55rem; border: 1.4px solid #2b2a33; background:
    linear-gradient(#2b2a33, #2b2a33) left / 45% 100% no-repeat; }
  .switch[aria-checked='true']::before { background: linear-gradient(#5b4a8a, #5b4a8a) right / 45% 100% no-repeat, #ecd3b5; }
`;

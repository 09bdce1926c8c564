/** Size of a map on the page, and the pixels of the screen. */
export interface BoxSize {
  /** CSS pixels of the stage. */
  readonly width: number;
  readonly height: number;
  /** Device pixels that make one CSS pixel. */
  readonly ratio: number;
}

/** More device pixels than these make no visible difference, and cost memory. */
const SHARPEST = 3;

/**
 * Watches the box of a map: its size, however the page lays it out, and the device pixels, which change when the page
 * is zoomed or the window moves to another screen.
 */
export class StageBox {
  readonly #container: HTMLElement;
  readonly #stage: HTMLElement;
  readonly #onChange: () => void;
  readonly #sizes: ResizeObserver;
  #screen: MediaQueryList | undefined;
  #size: BoxSize | undefined;

  constructor(container: HTMLElement, stage: HTMLElement, onChange: () => void) {
    this.#container = container;
    this.#stage = stage;
    this.#onChange = onChange;
    this.#sizes = new ResizeObserver(() => {
      this.#measure();
      this.#watchScreen();
      onChange();
    });
    try {
      this.#sizes.observe(stage, { box: 'device-pixel-content-box' }); // the device pixels too, where it can
    } catch {
      this.#sizes.observe(stage);
    }
    this.#sizes.observe(container);
    this.#watchScreen();
    this.#measure();
  }

  /** The size; `undefined` while nothing of the map can be seen. */
  get size(): BoxSize | undefined {
    return this.#size;
  }

  /** Reads the size from the page, which lays itself out for that: not in each frame. */
  #measure(): void {
    const { clientWidth: width, clientHeight: height } = this.#stage;
    const zoom = (this.#stage as { currentCSSZoom?: number }).currentCSSZoom ?? 1; // `zoom` in the page's styles
    const ratio = Math.min(SHARPEST, (window.devicePixelRatio || 1) * zoom);
    this.#size = width === 0 || height === 0 ? undefined : { width, height, ratio };
  }

  /** Why the map has no size, by a mistake of the page rather than on purpose; `undefined` when it has one. */
  get fault(): string | undefined {
    const { clientWidth: width, clientHeight: height } = this.#container;
    if (this.size !== undefined || isHidden(this.#container)) return undefined;
    if (getComputedStyle(this.#container).display === 'inline')
      return `the map's container is displayed inline, which has no size; display it as a block`;
    const side = width === 0 && height > 0 ? 'width' : 'height';
    return `the map's container is ${width} by ${height} pixels; give it a ${side} in CSS`;
  }

  close(): void {
    this.#sizes.disconnect();
    this.#screen?.removeEventListener('change', this.#screenChanged);
  }

  readonly #screenChanged = (): void => {
    this.#measure();
    this.#watchScreen();
    this.#onChange();
  };

  /** A map that left the page watches no screen, or it would stay in memory with the page. */
  #watchScreen(): void {
    this.#screen?.removeEventListener('change', this.#screenChanged);
    this.#screen = this.#container.isConnected
      ? matchMedia(`(resolution: ${window.devicePixelRatio}dppx)`)
      : undefined;
    this.#screen?.addEventListener('change', this.#screenChanged);
  }
}

/** Whether an element is hidden on purpose: it or something around it has no box, or is closed. */
function isHidden(element: HTMLElement): boolean {
  if (!element.isConnected || element.getClientRects().length === 0) return true;
  return 'checkVisibility' in element && !element.checkVisibility();
}

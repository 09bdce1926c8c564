/** A height in metres, and how far another must be from it to count. */
export interface HeightBand {
  readonly altitude: number;
  /** 95 % accuracy in metres; 0 when none is stated. */
  readonly accuracy: number;
  /** Swing in metres that noise seldom causes. */
  readonly threshold: number;
}

/**
 * Sums up climb and descent of heights: an extreme counts when the height has left it by a swing that noise seldom
 * causes.
 */
export class SwingCounter {
  #climb = 0;
  #descent = 0;
  /** Start of the current swing, and its extreme. */
  #base: HeightBand | undefined;
  #extreme: HeightBand = { altitude: 0, accuracy: 0, threshold: 0 };

  add(here: HeightBand): void {
    const base = this.#base;
    if (base === undefined || outdoes(here, base)) {
      this.end();
      this.#base = this.#extreme = here;
      return;
    }
    const risen = this.#extreme.altitude - base.altitude;
    const goesOn =
      risen === 0 ||
      (risen > 0 ? here.altitude >= this.#extreme.altitude : here.altitude <= this.#extreme.altitude);
    if (goesOn) {
      this.#extreme = here;
    } else if (isSwing(this.#extreme, here)) {
      this.#settle();
      this.#base = this.#extreme;
      this.#extreme = here;
    }
  }

  /** Ends a run: the next height is not compared with the one before. */
  end(): void {
    this.#settle();
    this.#base = undefined;
  }

  get totals(): { readonly climb: number; readonly descent: number } {
    const open = this.#open();
    return { climb: this.#climb + Math.max(0, open), descent: this.#descent + Math.max(0, -open) };
  }

  /** A copy that continues by itself. */
  fork(): SwingCounter {
    const copy = new SwingCounter();
    copy.#climb = this.#climb;
    copy.#descent = this.#descent;
    copy.#base = this.#base;
    copy.#extreme = this.#extreme;
    return copy;
  }

  #open(): number {
    const base = this.#base;
    return base !== undefined && isSwing(base, this.#extreme) ? this.#extreme.altitude - base.altitude : 0;
  }

  #settle(): void {
    const swing = this.#open();
    if (swing > 0) this.#climb += swing;
    else this.#descent -= swing;
  }
}

function isSwing(from: HeightBand, to: HeightBand): boolean {
  return Math.abs(to.altitude - from.altitude) >= Math.max(from.threshold, to.threshold);
}

/**
 * Whether a height is much more accurate than the start of the swing, and no swing away from it: it replaces the start.
 */
function outdoes(here: HeightBand, base: HeightBand): boolean {
  return here.accuracy > 0 && here.accuracy < base.accuracy / 1.5 && !isSwing(base, here);
}

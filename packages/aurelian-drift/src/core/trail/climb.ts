import type { AltitudeDatum, Fix } from '../fix/fix.js';

/** Swing in metres after which an extreme of the altitude counts, when no accuracy is stated. */
const SWING = 3;
/**
 * The same as a multiple of the stated 95 % accuracy. Errors wander during the whole trail, and the extremes of many
 * such movements lie far apart; below this threshold they would add up to a hill.
 */
const SWING_IN_ACCURACY = 2.5;

/**
 * Sums up climb and descent with a threshold: an extreme counts when the altitude has left it by a swing that noise
 * seldom causes. Altitudes above different surfaces are never subtracted.
 */
export class ClimbCounter {
  #climb = 0;
  #descent = 0;
  #seen = 0;
  /** Start of the current swing, and its extreme. */
  #base: HeightBand | undefined;
  #extreme: HeightBand = { altitude: 0, accuracy: 0 };
  #datum: AltitudeDatum | undefined;

  add(fix: Pick<Fix, 'altitude' | 'altitudeAccuracy' | 'altitudeDatum'>): void {
    if (fix.altitude === undefined) return;
    const here = { altitude: fix.altitude, accuracy: fix.altitudeAccuracy ?? 0 };
    const datum = fix.altitudeDatum ?? 'unknown';
    this.#seen++;
    const base = this.#base;
    if (base === undefined || datum !== this.#datum || outdoes(here, base)) {
      this.#settle();
      this.#base = this.#extreme = here;
      this.#datum = datum;
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

  breakSegment(): void {
    this.#settle();
    this.#base = undefined;
  }

  /** Absent when there were fewer than two altitudes. */
  get totals(): { climb?: number; descent?: number } {
    if (this.#seen < 2) return {};
    const open = this.#open();
    return { climb: this.#climb + Math.max(0, open), descent: this.#descent + Math.max(0, -open) };
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

interface HeightBand {
  readonly altitude: number;
  /** 95 % accuracy in metres; 0 when none is stated. */
  readonly accuracy: number;
}

/** Whether two altitudes differ by more than noise seldom causes, with the coarser accuracy of both. */
function isSwing(from: HeightBand, to: HeightBand): boolean {
  const swing = Math.max(SWING, SWING_IN_ACCURACY * Math.max(from.accuracy, to.accuracy));
  return Math.abs(to.altitude - from.altitude) >= swing;
}

/**
 * Whether an altitude is much more accurate than the start of the swing, and no swing away from it: it replaces the
 * start.
 */
function outdoes(here: HeightBand, base: HeightBand): boolean {
  return here.accuracy > 0 && here.accuracy < base.accuracy / 1.5 && !isSwing(base, here);
}

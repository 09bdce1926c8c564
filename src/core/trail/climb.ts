import type { AltitudeDatum, Fix } from '../fix/fix.js';

/** Metres an altitude must turn back before the turning point counts, when no accuracy is stated. */
const SWING = 3;
/**
 * How many times the stated 95 % accuracy it must turn back otherwise. An error wanders to and fro for as long as
 * the trail lasts, and the extremes of many wanderings lie far apart; below this they add up to a hill.
 */
const SWING_IN_ACCURACY = 2.5;

/**
 * Climb and descent with a threshold: an extreme counts once the altitude has left it by a swing that
 * noise seldom makes.
 * Altitudes above different datums are never subtracted from one another.
 */
export class ClimbCounter {
  #climb = 0;
  #descent = 0;
  #seen = 0;
  #base: number | undefined;
  #extreme = 0;
  #datum: AltitudeDatum | undefined;
  #swing = SWING;

  add(fix: Fix): void {
    const { altitude } = fix;
    if (altitude === undefined) return;
    const datum = fix.altitudeDatum ?? 'unknown';
    this.#seen++;
    this.#swing = Math.max(SWING, SWING_IN_ACCURACY * (fix.altitudeAccuracy ?? 0));
    if (this.#base === undefined || datum !== this.#datum) {
      this.#settle();
      this.#base = this.#extreme = altitude;
      this.#datum = datum;
      return;
    }
    const rising = this.#extreme >= this.#base;
    const goesOn =
      this.#extreme === this.#base || (rising ? altitude >= this.#extreme : altitude <= this.#extreme);
    if (goesOn) {
      this.#extreme = altitude;
    } else if (Math.abs(altitude - this.#extreme) >= this.#swing) {
      this.#settle();
      this.#base = this.#extreme;
      this.#extreme = altitude;
    }
  }

  breakSegment(): void {
    this.#settle();
    this.#base = undefined;
  }

  /** Absent when fewer than two altitudes were seen. */
  get totals(): { climb?: number; descent?: number } {
    if (this.#seen < 2) return {};
    const open = this.#open();
    return { climb: this.#climb + Math.max(0, open), descent: this.#descent + Math.max(0, -open) };
  }

  #open(): number {
    const swing = this.#base === undefined ? 0 : this.#extreme - this.#base;
    return Math.abs(swing) >= this.#swing ? swing : 0;
  }

  #settle(): void {
    const swing = this.#open();
    if (swing > 0) this.#climb += swing;
    else this.#descent -= swing;
  }
}

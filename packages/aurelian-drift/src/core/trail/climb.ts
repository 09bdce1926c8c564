import type { AltitudeDatum, Fix } from '../fix/fix.js';
import { HeightWindow } from './height-window.js';
import { SwingCounter, type HeightBand } from './swings.js';

/** Swing in metres that counts where heights cannot be smoothed and state no accuracy. */
const SWING = 3;
/**
 * The same as a multiple of the stated 95 % accuracy. Errors wander during the whole trail, and the extremes of many
 * such movements lie far apart; below this threshold they would add up to a hill.
 */
const SWING_IN_ACCURACY = 2.5;
/** Heights of a run that are kept until it is known whether they can be smoothed. */
const UNDECIDED = 240;

/** What is known of a height. */
type Height = Pick<Fix, 'altitude' | 'altitudeAccuracy' | 'altitudeDatum'> & { readonly time?: number };

/**
 * Sums up climb and descent on smoothed heights, with a threshold from their own noise. Heights that are too few, too
 * far apart, or without times, are counted as they are. Heights above different surfaces are never subtracted.
 */
export class ClimbCounter {
  readonly #swings = new SwingCounter();
  readonly #window = new HeightWindow();
  /** Heights of the run as they are, while it is not known whether they can be smoothed. */
  #raw: HeightBand[] = [];
  #kind: 'undecided' | 'plain' | 'smoothed' = 'undecided';
  #seen = 0;
  #datum: AltitudeDatum | undefined;
  /** The totals, until they change. */
  #totals: { readonly climb: number; readonly descent: number } | undefined;

  add(height: Height): void {
    const { altitude, altitudeAccuracy, altitudeDatum = 'unknown', time = NaN } = height;
    if (altitude === undefined) return;
    if (altitudeDatum !== this.#datum) this.breakSegment();
    this.#datum = altitudeDatum;
    this.#seen++;
    const accuracy = altitudeAccuracy ?? 0;
    const weight = this.#window.weightOf(accuracy);
    if (this.#kind !== 'plain' && !Number.isNaN(time) && this.#window.add(time / 1000, altitude, weight))
      this.#totals = undefined;
    if (this.#kind !== 'smoothed')
      this.#takeRaw({ altitude, accuracy, threshold: Math.max(SWING, SWING_IN_ACCURACY * accuracy) });
    else if (this.#window.ready)
      for (const smoothed of this.#window.take()) this.#swings.add({ ...smoothed, accuracy: 0 });
  }

  breakSegment(): void {
    this.#finish(this.#swings, true);
    this.#swings.end();
    this.#totals = undefined;
    this.#raw = [];
    this.#kind = 'undecided';
    this.#window.clear();
  }

  /** Absent when there were fewer than two altitudes. */
  get totals(): { climb?: number; descent?: number } {
    if (this.#seen < 2) return {};
    if (this.#totals !== undefined) return this.#totals;
    const copy = this.#swings.fork();
    this.#finish(copy, false);
    return (this.#totals = copy.totals);
  }

  #takeRaw(height: HeightBand): void {
    this.#totals = undefined;
    if (this.#kind === 'plain') {
      this.#swings.add(height);
      return;
    }
    this.#raw.push(height);
    if (this.#window.usable) this.#kind = 'smoothed';
    else if (this.#raw.length > UNDECIDED) {
      this.#finish(this.#swings, true);
      this.#kind = 'plain';
    } else return;
    this.#raw = [];
  }

  /** Counts what is held back. @param all including the heights of the last seconds. */
  #finish(swings: SwingCounter, all: boolean): void {
    if (this.#kind === 'smoothed')
      for (const smoothed of this.#window.rest(all)) swings.add({ ...smoothed, accuracy: 0 });
    else for (const height of this.#raw) swings.add(height);
  }
}

import type { AltitudeDatum, Fix } from '../fix/fix.js';
import { HeightWindow } from './height-window.js';

/** A height at a time. */
export interface HeightAt {
  /** Milliseconds since 1970 UTC. */
  readonly time: number;
  /** Metres. */
  readonly altitude: number;
}

/**
 * Smooths the heights of fixes, as climb and descent are counted: each is passed on once it is final. Heights that are
 * too few, or too far apart, are passed on as they are.
 */
export class HeightSmoother {
  readonly #window = new HeightWindow();
  readonly #onFinal: (height: HeightAt) => void;
  #raw: HeightAt[] = [];
  #datum: AltitudeDatum | undefined;

  constructor(onFinal: (height: HeightAt) => void) {
    this.#onFinal = onFinal;
  }

  /** Takes the next fix; one without an altitude changes nothing. */
  take({ time, altitude, altitudeAccuracy = 0, altitudeDatum = 'unknown' }: Fix): void {
    if (altitude === undefined) return;
    if (altitudeDatum !== this.#datum) this.breakSegment();
    this.#datum = altitudeDatum;
    this.#window.add(time / 1000, altitude, this.#window.weightOf(altitudeAccuracy));
    this.#raw.push({ time, altitude });
    if (!this.#window.usable) return;
    this.#raw = [];
    if (this.#window.ready) this.#pass(this.#window.take());
  }

  /** Passes the rest on, and starts a new segment. */
  breakSegment(): void {
    if (this.#window.usable) this.#pass(this.#window.rest(true));
    else for (const height of this.#raw) this.#onFinal(height);
    this.#raw = [];
    this.#window.clear();
  }

  #pass(heights: readonly { readonly seconds: number; readonly altitude: number }[]): void {
    for (const { seconds, altitude } of heights)
      this.#onFinal({ time: Math.round(seconds * 1000), altitude });
  }
}

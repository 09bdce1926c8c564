import { MotionMeter } from '../core/estimate/motion-meter.js';
import type { Fix } from '../core/fix/fix.js';
import { STALE_AFTER } from '../core/scene/layers/kite.js';

/** The own place as the map shows it: the fix, its course, and whether its label is open. */
export class OwnKite {
  #fix: Fix | undefined;
  #open = false;
  /** Derives the course where the fixes state none. */
  readonly #motion = new MotionMeter();
  /** Seconds after which it fades. */
  readonly staleAfter: number;

  constructor(staleAfter = STALE_AFTER) {
    this.staleAfter = staleAfter;
  }

  /** The fix, with the course that the positions show if it states none. */
  get fix(): Fix | undefined {
    return this.#fix;
  }

  /** Whether its label is open. */
  get open(): boolean {
    return this.#open;
  }

  show(fix: Fix | undefined): void {
    if (fix === undefined) this.#open = false;
    const course = fix && (fix.course ?? this.#motion.take(fix)?.course);
    this.#fix = fix === undefined || course === fix.course || course === undefined ? fix : { ...fix, course };
  }

  toggle(): void {
    this.#open = this.#fix !== undefined && !this.#open;
  }

  /** Whether its picture changes with time alone. @param now milliseconds since 1970 UTC. */
  ages(now: number): boolean {
    if (this.#fix === undefined) return false;
    return this.#open || now - this.#fix.time > this.staleAfter * 1000;
  }
}

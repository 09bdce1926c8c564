import type { Fix } from '../fix/fix.js';
import type { Extras } from './extras.js';
import { goesBack, inPlace } from './take-fix.js';
import type { Trail } from './trail.js';
import { withLate, type LateFix } from './with-late.js';

/** Adds fixes to a trail as `takeFix` does, and inserts late ones at the end, in one pass. For reading stored data. */
export class FixIntake {
  readonly trail: Trail;
  readonly #late: LateFix[] = [];

  constructor(trail: Trail) {
    this.trail = trail;
  }

  /** @param extras additional data of other writers; it stays with the fix. */
  take(fix: Fix, extras?: Extras): void {
    const { trail } = this;
    if (goesBack(trail, fix)) {
      this.#late.push({ fix: inPlace(fix), extras });
      return;
    }
    trail.append(fix);
    for (const [key, text] of Object.entries(extras ?? {})) trail.setExtra(trail.length - 1, key, text);
  }

  /** The trail with every fix in its place: another object when there were late fixes. */
  finish(): Trail {
    return withLate(this.trail, this.#late);
  }
}

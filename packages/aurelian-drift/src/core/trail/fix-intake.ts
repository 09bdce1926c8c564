import type { Fix } from '../fix/fix.js';
import type { Extras } from './extras.js';
import { goesBack, inPlace } from './take-fix.js';
import type { Trail } from './trail.js';
import { withLate, type LateFix } from './with-late.js';

/**
 * Takes fixes into a trail as `takeFix` does, and puts those that came late in at the end, all in one pass. For reading
 * what was kept.
 */
export class FixIntake {
  readonly trail: Trail;
  readonly #late: LateFix[] = [];

  constructor(trail: Trail) {
    this.trail = trail;
  }

  /** @param extras what others wrote beside the fix; it goes wherever the fix goes. */
  take(fix: Fix, extras?: Extras): void {
    const { trail } = this;
    if (goesBack(trail, fix)) {
      this.#late.push({ fix: inPlace(fix), extras });
      return;
    }
    trail.append(fix);
    for (const [key, text] of Object.entries(extras ?? {})) trail.setExtra(trail.length - 1, key, text);
  }

  /** The trail with every fix in its place: another one when some came late. */
  finish(): Trail {
    return withLate(this.trail, this.#late);
  }
}

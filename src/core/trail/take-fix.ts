import { fixOf, type Fix } from '../fix/fix.js';
import type { Extras } from './extras.js';
import type { Trail } from './trail.js';

/**
 * Records a fix in a trail: at its end, or by its own time when it came late, in a bundle after a newer one. It then is no longer
 * `backwards`, for in its place it is not. Returns whether it was put in its place.
 */
export function takeFix(trail: Trail, fix: Fix): boolean {
  if (!goesBack(trail, fix)) {
    trail.append(fix);
    return false;
  }
  trail.insert(inPlace(fix));
  return true;
}

/** Takes fixes into a trail as `takeFix` does, and puts those that came late in at the end, all in one pass. For reading what was kept. */
export class FixIntake {
  readonly trail: Trail;
  readonly #late: { readonly fix: Fix; readonly extras: Extras | undefined }[] = [];

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

  /** The trail, with every fix in its place. */
  finish(): Trail {
    this.trail.insertAll(this.#late);
    this.#late.length = 0;
    return this.trail;
  }
}

/** Whether a fix goes in before the last one of a trail. */
function goesBack(trail: Trail, fix: Fix): boolean {
  return isOvertaken(fix) && fix.time < trail.number(trail.length - 1, 'time');
}

/** The fix without the mark that says that it is out of its place. */
function inPlace({ marks = [], ...rest }: Fix): Fix {
  return fixOf({ ...rest, marks: marks.filter((mark) => mark !== 'backwards') });
}

/** Whether a fix came late, and a newer one before it. A clock that was set back makes fixes `backwards` that are not late. */
export function isOvertaken({ marks }: Fix): boolean {
  return marks?.includes('late') === true && marks.includes('backwards');
}

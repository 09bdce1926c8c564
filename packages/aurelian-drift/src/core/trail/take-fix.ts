import { fixFrom, type Fix } from '../fix/fix.js';
import type { Trail } from './trail.js';

/**
 * Records a fix in a trail: at its end, or by its own time when it came late, in a bundle after a newer one. It then is
 * no longer `backwards`, for in its place it is not. Returns whether it was put in its place.
 */
export function takeFix(trail: Trail, fix: Fix): boolean {
  if (!goesBack(trail, fix)) {
    trail.append(fix);
    return false;
  }
  trail.insert(inPlace(fix));
  return true;
}

/** Whether a fix goes in before the last one of a trail. */
export function goesBack(trail: Trail, fix: Fix): boolean {
  return isOvertaken(fix) && fix.time < trail.number(trail.length - 1, 'time');
}

/** The fix without the mark that says that it is out of its place. */
export function inPlace({ marks = [], ...rest }: Fix): Fix {
  return fixFrom({ ...rest, marks: marks.filter((mark) => mark !== 'backwards') });
}

/**
 * Whether a fix came late, and a newer one before it. A clock that was set back makes fixes `backwards` that are not
 * late.
 */
export function isOvertaken({ marks }: Fix): boolean {
  return marks?.includes('late') === true && marks.includes('backwards');
}

import { fixFrom, type Fix } from '../fix/fix.js';
import type { Trail } from './trail.js';

/**
 * Records a fix in a trail: at its end, or by its own time when it was delivered late, after a newer one. In its place
 * it is no longer `backwards`. Returns whether it was inserted by its time.
 */
export function takeFix(trail: Trail, fix: Fix): boolean {
  if (!goesBack(trail, fix)) {
    trail.append(fix);
    return false;
  }
  trail.insert(inPlace(fix));
  return true;
}

/** Whether a fix belongs before the last one of a trail. */
export function goesBack(trail: Trail, fix: Fix): boolean {
  return isOvertaken(fix) && fix.time < trail.number(trail.length - 1, 'time');
}

/** The fix without the mark `backwards`. */
export function inPlace({ marks = [], ...rest }: Fix): Fix {
  return fixFrom({ ...rest, marks: marks.filter((mark) => mark !== 'backwards') });
}

/**
 * Whether a fix was delivered late, after a newer one. A clock that was set back gives fixes that are `backwards` but
 * not late.
 */
export function isOvertaken({ marks }: Fix): boolean {
  return marks?.includes('late') === true && marks.includes('backwards');
}

import { fixOf, type Fix } from '../fix/fix.js';
import type { Trail } from './trail.js';

/**
 * Records a fix in a trail: at its end, or by its own time when it came late, in a bundle after a newer one. It then is no longer
 * `backwards`, for in its place it is not. Returns whether it was put in its place.
 */
export function takeFix(trail: Trail, fix: Fix): boolean {
  if (!isOvertaken(fix) || !(fix.time < trail.number(trail.length - 1, 'time'))) {
    trail.append(fix);
    return false;
  }
  const { marks = [], ...rest } = fix;
  trail.insert(fixOf({ ...rest, marks: marks.filter((mark) => mark !== 'backwards') }));
  return true;
}

/** Whether a fix came late, and a newer one before it. A clock that was set back makes fixes `backwards` that are not late. */
export function isOvertaken({ marks }: Fix): boolean {
  return marks?.includes('late') === true && marks.includes('backwards');
}

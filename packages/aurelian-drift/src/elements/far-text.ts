import type { Formatter } from '../core/fix/formatter.js';
import { compassPoint } from '../core/fix/words.js';
import type { PlaceAnswer } from '../core/place/place.js';

/** How far a place is, and in which direction: `640 m NNE`. Empty where no distance is known. */
export function farText({ distance, bearing }: PlaceAnswer, format: Formatter): string {
  if (distance === undefined) return '';
  return `${format.length(distance)}${bearing === undefined ? '' : ` ${compassPoint(bearing)}`}`;
}

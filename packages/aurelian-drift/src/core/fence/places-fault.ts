import { placeFault } from '../geodesy/position.js';

/** What is wrong with lists of places, of which each must hold so many at least. */
export function placesFault(lists: readonly unknown[], least: number): string | undefined {
  if (lists.length === 0 || lists.some((list) => !Array.isArray(list) || list.length < least))
    return `must hold ${least} places or more in a list`;
  const fault = lists
    .flat()
    .map(placeFault)
    .find((found) => found !== undefined);
  return fault === undefined ? undefined : `has an impossible place: ${fault}`;
}

import { placeProblem } from '../geodesy/position.js';

/** Problem with lists of positions that each need a minimum length. */
export function placesProblem(lists: readonly unknown[], min: number): string | undefined {
  if (lists.length === 0 || lists.some((list) => !Array.isArray(list) || list.length < min))
    return `must hold ${min} places or more in a list`;
  const problem = lists
    .flat()
    .map(placeProblem)
    .find((found) => found !== undefined);
  return problem === undefined ? undefined : `has an impossible place: ${problem}`;
}

import { checkOptions, numberFrom, oneOf, someText, type Rule } from '../check/options.js';
import { placeFault } from '../geodesy/position.js';
import type { Fence } from './fence.js';

/** What a fence says of itself in numbers. */
export const FENCE_NUMBERS = {
  radius: numberFrom(0.001, 1e7, 'metres'),
  halfWidth: numberFrom(0.001, 1e6, 'metres'),
  linger: numberFrom(0.001, 1e9, 'seconds'),
  certainty: numberFrom(0.5, 0.999999, ''),
} as const;

const { radius, halfWidth, linger, certainty } = FENCE_NUMBERS;

/** What each kind of fence has to have. */
const FORMS: Readonly<Record<Fence['kind'], Readonly<Record<string, Rule>>>> = {
  circle: { centre: (value) => placesFault([[value]], 1), radius },
  polygon: { parts: (value) => placesFault([value].flat(2), 3) },
  corridor: { lines: (value) => placesFault([value].flat(), 1), halfWidth },
};

/**
 * Checks a fence that was written down in code.
 *
 * @throws {InputError} that names the fence and what is wrong with it: a name misspelt, missing, or with a value that it cannot have.
 */
export function checkFence(fence: Fence): void {
  const owner = `fence "${fence.id}"`;
  const form = FORMS[fence.kind] as (typeof FORMS)['circle'] | undefined;
  const needed = { kind: oneOf(...Object.keys(FORMS)), id: someText, name: someText, ...form };
  const own = (key: string): unknown => fence[key as keyof Fence] ?? null;
  checkOptions(owner, Object.fromEntries(Object.keys(needed).map((key) => [key, own(key)])), needed);
  checkOptions(owner, fence, { linger, certainty, when: timetableFault, ...needed });
}

function timetableFault(value: unknown): string | undefined {
  return typeof (value as Fence['when'])?.isOn === 'function' ? undefined : 'must be timetable()';
}

function placesFault(lists: readonly unknown[], least: number): string | undefined {
  if (lists.length === 0 || lists.some((list) => !Array.isArray(list) || list.length < least))
    return `must hold ${least} places or more in a list`;
  const fault = lists
    .flat()
    .map(placeFault)
    .find((found) => found !== undefined);
  return fault === undefined ? undefined : `has an impossible place: ${fault}`;
}

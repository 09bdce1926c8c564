import { checkOptions, oneOf, someText } from '../check/options.js';
import type { Fence } from './fence.js';
import type { FenceKind } from './fence-kind.js';
import { FENCE_NUMBERS } from './fence-numbers.js';
import { FENCE_KINDS } from './kinds.js';

/**
 * Checks a fence that was written in code.
 *
 * @throws {InputError} that names the fence and the problem: a misspelt or missing field, or a value out of range.
 */
export function checkFence(fence: Fence): void {
  const owner = `fence "${fence.id}"`;
  const kind = FENCE_KINDS[fence.kind] as FenceKind<never> | undefined;
  const needed = { kind: oneOf(...Object.keys(FENCE_KINDS)), id: someText, name: someText, ...kind?.rules };
  const own = (key: string): unknown => fence[key as keyof Fence] ?? null;
  checkOptions(owner, Object.fromEntries(Object.keys(needed).map((key) => [key, own(key)])), needed);
  const { linger, certainty } = FENCE_NUMBERS;
  checkOptions<object>(owner, fence, { linger, certainty, when: timetableProblem, ...needed });
}

function timetableProblem(value: unknown): string | undefined {
  return typeof (value as Fence['when'])?.isOn === 'function' ? undefined : 'must be timetable()';
}

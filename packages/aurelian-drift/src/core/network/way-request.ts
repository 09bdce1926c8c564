import { InputError } from '../check/input-error.js';
import { anything, checkOptions, numberFrom, oneOf, someText } from '../check/options.js';
import { placeProblem } from '../geodesy/position.js';
import { shapeOf } from '../fence/shape.js';
import type { Fence } from '../fence/fence.js';
import type { WayRequest } from './way.js';

/**
 * Checks a question for a way.
 *
 * @throws {InputError} that names the field.
 */
export function checkWayRequest(request: WayRequest): void {
  checkOptions('way', request, {
    from: placeProblem,
    to: placeProblem,
    via: (value) => (Array.isArray(value) ? undefined : 'must be a list of positions'),
    by: someText,
    prefer: oneOf('fastest', 'shortest'),
    avoid: anything,
    closed: anything,
    choices: numberFrom(1, 5, ''),
  });
  for (const name of ['from', 'to'] as const)
    if ((request as Partial<WayRequest>)[name] === undefined)
      throw new InputError('bad-value', `way: ${name} is missing; it is a position, { lat, lon }`);
  request.via?.forEach((at, i) => {
    const problem = placeProblem(at);
    if (problem !== undefined) throw new InputError('impossible-position', `way: via ${i + 1}: ${problem}`);
  });
  for (const fence of [...(request.avoid ?? []), ...(request.closed ?? [])] as Fence[]) shapeOf(fence);
}

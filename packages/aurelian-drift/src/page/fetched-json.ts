import { InputError } from '../core/check/input-error.js';
import { formatValue } from '../core/check/number.js';

/** The JSON object at an address. @throws {InputError} for another answer. */
export async function fetchedJson(address: string): Promise<object> {
  const response = await fetch(address);
  if (!response.ok) throw new InputError('bad-value', `${address} answers ${response.status}`);
  const data: unknown = await response.json();
  if (typeof data === 'object' && data !== null) return data;
  throw new InputError('bad-value', `${address} is not GeoJSON: it is ${formatValue(data)}`);
}

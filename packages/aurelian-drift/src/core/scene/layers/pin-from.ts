import { InputError } from '../../check/input-error.js';
import { formatValue } from '../../check/number.js';
import { anything, checkOptions, colour, oneOf, yesOrNo, type Rule, isMissing } from '../../check/options.js';
import { closest } from '../../check/suggest.js';
import { positionOf } from '../../geodesy/position.js';
import { PIN_SHAPES, type Pin } from './pin.js';

/** Options of a pin: any object with a lat and a lon. A missing id is generated; a number becomes a text. */
export type PinOptions = Omit<Pin, 'id'> & { readonly id?: string | number };

const text: Rule = (value) =>
  typeof value === 'string'
    ? undefined
    : `must be a text, got ${formatValue(value)}; rich content is an element of your own: map.anchor(element, { pin })`;

const RULES: Readonly<Record<keyof PinOptions, Rule>> = {
  id: (value) =>
    (typeof value === 'string' && value !== '') || Number.isFinite(value)
      ? undefined
      : `must be a text or a number, got ${formatValue(value)}`,
  lat: anything,
  lon: anything,
  text,
  open: yesOrNo,
  group: text,
  draggable: yesOrNo,
  colour,
  shape: oneOf(...PIN_SHAPES),
};
const NAMES = Object.keys(RULES) as (keyof PinOptions)[];

/**
 * The pin of some options. The object may have other properties, but none whose name looks like a misspelt option.
 *
 * @param newId makes an id where there is none.
 * @throws {InputError} for an impossible position, a misspelt option, or a value that it cannot have.
 */
export function pinFrom(options: PinOptions, newId: () => string): Pin {
  if (isMissing(options) || typeof options !== 'object')
    throw new InputError(
      'bad-value',
      `a pin must be an object with lat and lon, got ${formatValue(options)}`,
    );
  // The values may be properties of a class: each is read by its name.
  const given: Partial<Record<keyof PinOptions, unknown>> = {};
  for (const name of NAMES) if (options[name] !== undefined) given[name] = options[name];
  for (const name of Object.keys(options)) {
    if (name in RULES) continue;
    const meant = closest(name, NAMES.slice(3), 0.25);
    if (meant !== undefined && given[meant as keyof PinOptions] === undefined)
      throw new InputError('unknown-option', `a pin has no option "${name}", did you mean "${meant}"?`);
  }
  checkOptions('a pin', given, RULES);
  const { lat, lon } = positionOf(options);
  return { ...given, id: options.id === undefined ? newId() : String(options.id), lat, lon } as Pin;
}

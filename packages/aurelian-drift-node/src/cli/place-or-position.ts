import { InvalidArgumentError } from 'commander';
import { InputError, type Position } from 'aurelian-drift';
import { placesArgument } from './gazetteers.js';
import { positionArgument } from './quantities.js';

/** A position, with the name of the place that was asked for, if it was one. */
export interface NamedPosition extends Position {
  readonly name?: string;
}

/** `44.2,-33.6`, a geo URI, or the words of a place in a gazetteer. */
export async function placeOrPosition(text: string, places: string): Promise<NamedPosition> {
  if (/^geo:|^[-+\u2212\d]/i.test(text)) {
    try {
      return positionArgument(text);
    } catch (error) {
      // House numbers begin with a digit too.
      if (!(error instanceof InvalidArgumentError) || !/[\p{L}]{2}/u.test(text) || /^geo:/i.test(text))
        throw error instanceof InvalidArgumentError
          ? new InputError('impossible-position', error.message)
          : error;
    }
  }
  const found = await (await placesArgument(places)).named(text, { max: 5 });
  const whole = found.filter(({ match }) => match !== 'misspelt');
  const [first] = whole;
  if (first === undefined) {
    const similar = found.map((place) => place.text).join('; ');
    throw new InputError(
      'bad-value',
      `no place has the name "${text}"${similar === '' ? '' : `; similar: ${similar}`}`,
      {},
      'Give a position like 44.2,-33.6, or a name that aurelian find finds.',
    );
  }
  return { lat: first.lat, lon: first.lon, name: first.text };
}

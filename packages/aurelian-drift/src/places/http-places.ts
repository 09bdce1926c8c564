import { InputError } from '../core/check/input-error.js';
import { answersFrom } from '../core/formats/geojson/geojson-answers.js';
import { positionPair } from '../core/fix/words.js';
import type { Position } from '../core/geodesy/position.js';
import type { AnswerOptions } from '../core/place/gazetteer.js';
import type { PlaceAnswer } from '../core/place/place.js';
import { ServiceError } from '../core/service/service-error.js';
import { fetchedJson, serviceAddress } from '../service/fetched.js';
import type { PlaceProvider } from './place-service.js';

/**
 * A provider for a service with the routes `/places/at`, `/places/near` and `/places/named`, which answers in GeoJSON,
 * such as the stand-in of this package.
 *
 * @param address address of the service, like `https://places.example`.
 * @throws {InputError} for an invalid address.
 */
export function httpPlaces(address: string): PlaceProvider {
  const base = serviceAddress(address, 'https://places.example');
  const ask = async (
    route: string,
    parameters: Readonly<Record<string, string | number | undefined>>,
    signal: AbortSignal,
  ) => {
    const url = new URL(`places/${route}`, base);
    for (const [name, value] of Object.entries(parameters))
      if (value !== undefined) url.searchParams.set(name, String(value));
    return answersOf(await fetchedJson(url, 'application/geo+json', signal));
  };
  return {
    at: (where, { level, ...options }, signal) =>
      ask('at', { ...numbers(where), level, ...wording(options) }, signal),
    near: (where, { within, max, kinds, by, ...options }, signal) =>
      ask('near', { ...numbers(where), within, max, kinds: kinds?.join(), by, ...wording(options) }, signal),
    named: (text, { near, max, ...options }, signal) =>
      ask(
        'named',
        { text, near: near === undefined ? undefined : positionPair(near, 7), max, ...wording(options) },
        signal,
      ),
  };
}

/** Seven decimals are a centimetre. */
function numbers({ lat, lon }: Position): { lat: string; lon: string } {
  return { lat: lat.toFixed(7), lon: lon.toFixed(7) };
}

function wording({ language, pattern }: AnswerOptions): {
  language: string | undefined;
  pattern: string | undefined;
} {
  return { language: typeof language === 'string' ? language : language?.join(), pattern };
}

function answersOf(document: unknown): PlaceAnswer[] {
  try {
    return answersFrom(document);
  } catch (cause) {
    if (!(cause instanceof InputError)) throw cause;
    throw new ServiceError('unfit', { cause, note: cause.message });
  }
}

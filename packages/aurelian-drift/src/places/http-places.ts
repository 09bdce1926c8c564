import { InputError } from '../core/check/input-error.js';
import { answersFrom } from '../core/formats/geojson/geojson-answers.js';
import { positionPair } from '../core/fix/words.js';
import type { Position } from '../core/geodesy/position.js';
import type { AnswerOptions } from '../core/place/gazetteer.js';
import type { PlaceAnswer } from '../core/place/place.js';
import { PlaceError } from '../core/place/place-error.js';
import type { PlaceProvider } from './place-service.js';

/** Maximum size of an answer in bytes: a thousand detailed places are a tenth of it. */
const MAX_BYTES = 4_000_000;

/**
 * A provider for a service with the routes `/places/at`, `/places/near` and `/places/named`, which answers in GeoJSON,
 * such as the stand-in of this package.
 *
 * @param address address of the service, like `https://places.example`.
 * @throws {InputError} for an invalid address.
 */
export function httpPlaces(address: string): PlaceProvider {
  if (!/^https?:\/\//i.test(address) || !URL.canParse(address))
    throw new InputError(
      'bad-value',
      `"${address.slice(0, 80)}" is not the address of a service`,
      {},
      'Give one like https://places.example.',
    );
  const base = address.endsWith('/') ? address : `${address}/`;
  const ask = async (
    route: string,
    parameters: Readonly<Record<string, string | number | undefined>>,
    signal: AbortSignal,
  ) => {
    const url = new URL(`places/${route}`, base);
    for (const [name, value] of Object.entries(parameters))
      if (value !== undefined) url.searchParams.set(name, String(value));
    return answersOf(await fetched(url, signal));
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

async function fetched(url: URL, signal: AbortSignal): Promise<string> {
  let response: Response;
  try {
    response = await fetch(url, { signal, headers: { accept: 'application/geo+json' }, credentials: 'omit' });
  } catch (cause) {
    signal.throwIfAborted();
    throw new PlaceError('unreachable', { cause, note: url.origin });
  }
  if (!response.ok) {
    void response.body?.cancel();
    throw refusal(response, url);
  }
  return limited(response, signal);
}

function refusal({ status, headers }: Response, url: URL): PlaceError {
  const kind = status === 429 ? 'busy' : status >= 500 ? 'failing' : 'refused';
  const seconds = Number(headers.get('retry-after') ?? NaN);
  return new PlaceError(kind, {
    note: `${url.origin}${url.pathname} answered ${status}`,
    ...(seconds >= 0 && { retryAfter: seconds }),
  });
}

/** Text of an answer, up to the maximum size. */
async function limited(response: Response, signal: AbortSignal): Promise<string> {
  const decoder = new TextDecoder();
  let text = '';
  let bytes = 0;
  const reader = response.body?.getReader();
  try {
    for (;;) {
      const piece = await reader?.read();
      if (piece?.value === undefined) return text + decoder.decode();
      bytes += piece.value.byteLength;
      if (bytes > MAX_BYTES) throw new PlaceError('unfit', { note: `it is longer than ${MAX_BYTES} bytes` });
      text += decoder.decode(piece.value, { stream: true });
    }
  } catch (cause) {
    void reader?.cancel().catch(() => undefined);
    signal.throwIfAborted();
    throw cause instanceof PlaceError
      ? cause
      : new PlaceError('unreachable', { cause, note: 'the connection was interrupted' });
  }
}

function answersOf(text: string): PlaceAnswer[] {
  let document: unknown;
  try {
    document = JSON.parse(text);
  } catch (cause) {
    const start = text.trimStart().slice(0, 30).replaceAll(/\s+/g, ' ');
    throw new PlaceError('unfit', {
      cause,
      note: start === '' ? 'it is empty' : `it is not JSON; it starts "${start}"`,
    });
  }
  try {
    return answersFrom(document);
  } catch (cause) {
    if (!(cause instanceof InputError)) throw cause;
    throw new PlaceError('unfit', { cause, note: cause.message });
  }
}

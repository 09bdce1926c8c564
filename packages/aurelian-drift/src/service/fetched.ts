import { InputError } from '../core/check/input-error.js';
import { ServiceError } from '../core/service/service-error.js';

/** Maximum size of an answer in bytes: a thousand detailed places are a tenth of it. */
const MAX_BYTES = 4_000_000;

/**
 * The checked address of a service, with a slash at its end.
 *
 * @param example a valid address, for the error.
 * @throws {InputError} for an invalid one.
 */
export function serviceAddress(address: string, example: string): string {
  if (!/^https?:\/\//i.test(address) || !URL.canParse(address))
    throw new InputError(
      'bad-value',
      `"${address.slice(0, 80)}" is not the address of a service`,
      {},
      `Give one like ${example}.`,
    );
  return address.endsWith('/') ? address : `${address}/`;
}

/**
 * The parsed JSON that a service answers, as long as it is.
 *
 * @param accept media type that is asked for.
 * @param send body of a POST request, as JSON. Default: a GET request.
 * @throws {ServiceError} for a failure of the connection, a refusal, and an answer that is too long or not JSON.
 */
export async function fetchedJson(
  url: URL,
  accept: string,
  signal: AbortSignal,
  send?: unknown,
): Promise<unknown> {
  const text = await fetched(url, accept, signal, send);
  try {
    return JSON.parse(text);
  } catch (cause) {
    const start = text.trimStart().slice(0, 30).replaceAll(/\s+/g, ' ');
    throw new ServiceError('unfit', {
      cause,
      note: start === '' ? 'it is empty' : `it is not JSON; it starts "${start}"`,
    });
  }
}

async function fetched(url: URL, accept: string, signal: AbortSignal, send: unknown): Promise<string> {
  let response: Response;
  try {
    response = await fetch(url, {
      signal,
      headers: { accept, ...(send !== undefined && { 'content-type': 'application/json' }) },
      credentials: 'omit',
      ...(send !== undefined && { method: 'POST', body: JSON.stringify(send) }),
    });
  } catch (cause) {
    signal.throwIfAborted();
    throw new ServiceError('unreachable', { cause, note: url.origin });
  }
  if (!response.ok) {
    void response.body?.cancel();
    throw refusal(response, url);
  }
  return limited(response, signal);
}

function refusal({ status, headers }: Response, url: URL): ServiceError {
  const kind = status === 429 ? 'busy' : status >= 500 ? 'failing' : 'refused';
  const seconds = Number(headers.get('retry-after') ?? NaN);
  return new ServiceError(kind, {
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
      if (bytes > MAX_BYTES)
        throw new ServiceError('unfit', { note: `it is longer than ${MAX_BYTES} bytes` });
      text += decoder.decode(piece.value, { stream: true });
    }
  } catch (cause) {
    void reader?.cancel().catch(() => undefined);
    signal.throwIfAborted();
    throw cause instanceof ServiceError
      ? cause
      : new ServiceError('unreachable', { cause, note: 'the connection was interrupted' });
  }
}

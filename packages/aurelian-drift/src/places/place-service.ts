import type { Position } from '../core/geodesy/position.js';
import type { AtOptions, Gazetteer, NamedOptions, NearOptions } from '../core/place/gazetteer.js';
import type { Place, PlaceAnswer } from '../core/place/place.js';

/** Cancels a question. */
export interface Cancel {
  readonly signal?: AbortSignal;
}

/**
 * A service for places: data of the app, or a service over the network. Each call rejects with a `ServiceError`, the
 * reason of the signal, or an `InputError` for an invalid question.
 */
export interface PlaceService {
  /** Places at a position, from exact to coarse. */
  at(where: Position, options?: AtOptions & Cancel): Promise<readonly PlaceAnswer[]>;
  /** Places around a position. */
  near(where: Position, options?: NearOptions & Cancel): Promise<readonly PlaceAnswer[]>;
  /** Places by their words. */
  named(text: string, options?: NamedOptions & Cancel): Promise<readonly PlaceAnswer[]>;
}

/**
 * A service as its developer writes it, with any of the three questions. Missing fields of an answer (level, text,
 * distance and direction) are computed. The signal aborts when the time limit is reached.
 */
export interface PlaceProvider {
  at?(where: Position, options: AtOptions, signal: AbortSignal): Promise<readonly (Place | PlaceAnswer)[]>;
  near?(
    where: Position,
    options: NearOptions,
    signal: AbortSignal,
  ): Promise<readonly (Place | PlaceAnswer)[]>;
  named?(text: string, options: NamedOptions, signal: AbortSignal): Promise<readonly (Place | PlaceAnswer)[]>;
}

/** A gazetteer as a service: no network, no delay, no failure. */
export function gazetteerPlaces(gazetteer: Gazetteer): PlaceService {
  const answer = <Options extends Cancel>(
    options: Options,
    ask: (rest: Omit<Options, 'signal'>) => readonly PlaceAnswer[],
  ) =>
    new Promise<readonly PlaceAnswer[]>((resolve) => {
      const { signal, ...rest } = options;
      signal?.throwIfAborted();
      resolve(ask(rest));
    });
  return {
    at: (where, options = {}) => answer(options, (rest) => gazetteer.at(where, rest)),
    near: (where, options = {}) => answer(options, (rest) => gazetteer.near(where, rest)),
    named: (text, options = {}) => answer(options, (rest) => gazetteer.named(text, rest)),
  };
}

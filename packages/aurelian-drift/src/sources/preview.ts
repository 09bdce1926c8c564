import { positionOf, type Position } from '../core/geodesy/position.js';
import type { Source } from '../receiver/source.js';

/**
 * A source for design previews, which cannot locate: one fix at a given place, at once and without a prompt. Its origin
 * is `simulated`.
 *
 * @throws {InputError} for an impossible place.
 */
export function previewSource(at: Position, time: number = Date.now()): Source {
  const { lat, lon } = positionOf(at);
  return {
    name: 'the stand-in for previews',
    supported: true,
    readAccess: () => Promise.resolve({ permission: 'granted', level: 'foreground' }),
    prompt: () => Promise.resolve(),
    watch(_demand, sink) {
      sink.fix({ time, lat, lon, accuracy: 10, origin: 'simulated' });
      return () => {};
    },
  };
}

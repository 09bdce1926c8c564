import { InputError } from '../check/input-error.js';
import type { ReaderOptions, TrackReader, TrackSink } from './track-sink.js';

/**
 * A reader of a JSON format, which is parsed as a whole when the text ends.
 *
 * @param deliver passes the content of the parsed document to the sink; it throws an `InputError` with the path of a
 *   problem.
 */
export function documentReader(
  deliver: (document: unknown, sink: TrackSink) => void,
  sink: TrackSink,
  { source }: ReaderOptions,
): TrackReader {
  const texts: string[] = [];
  const place = source === undefined ? {} : { source };
  return {
    write: (text) => void texts.push(text),
    end() {
      let document: unknown;
      try {
        document = JSON.parse(texts.join(''));
      } catch (error) {
        throw new InputError('not-this-format', `this is not JSON: ${(error as Error).message}`, place);
      }
      try {
        deliver(document, sink);
      } catch (error) {
        throw error instanceof InputError ? error.at(place) : error;
      }
    },
  };
}

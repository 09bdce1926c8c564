import type { Output } from './output.js';
import type { TrackContent } from './track-document.js';
import type { ReaderOptions, TrackReader, TrackSink } from './track-sink.js';
import type { TrackWriter } from './track-writer.js';

/** All that the library knows of a format of trails, lines and waypoints. */
export interface FormatDescriptor {
  /** In options and in code. */
  readonly name: string;
  /** What people call it. */
  readonly title: string;
  /** Of file names, in small letters and without the dot; the first is the usual one. */
  readonly endings: readonly string[];
  /**
   * Whether a text is of the format, by its beginning without white space before it, of which some thousand characters
   * will do. `maybe`: it looks like it, and is taken for it when no other format is sure.
   */
  readonly recognise: (start: string) => 'surely' | 'maybe' | 'no';
  /**
   * A text may begin with anything before its own: the ending of a file's name counts for more than a `maybe` of
   * another format.
   */
  readonly beginsAnyhow?: boolean;
  readonly reading:
    | { readonly by: 'piece'; readonly reader: (sink: TrackSink, options: ReaderOptions) => TrackReader }
    /** A JSON document, which is read whole. @throws {InputError} with the path of what is wrong. */
    | { readonly by: 'document'; readonly deliver: (document: unknown, sink: TrackSink) => void };
  /** @param content what will be written, where that is known: a writer may make room for no more than that needs. */
  readonly writer: (output: Output, content?: TrackContent) => TrackWriter;
}

import type { Output } from './output.js';
import type { TrackContent } from './track-document.js';
import type { ReaderOptions, TrackReader, TrackSink } from './track-sink.js';
import type { TrackWriter } from './track-writer.js';

/** Description of a format of trails, lines and waypoints. */
export interface FormatDescriptor {
  /** Name in options and in code. */
  readonly name: string;
  /** Name for people. */
  readonly title: string;
  /** File extensions, in lower case and without the dot; the usual one first. */
  readonly endings: readonly string[];
  /** Media type of a file. */
  readonly media: string;
  /**
   * Whether a text is of the format, by its first characters (some thousand are sufficient) without leading white
   * space. `maybe`: it is taken for the format when no other format is certain.
   */
  readonly recognise: (start: string) => 'surely' | 'maybe' | 'no';
  /** A text may begin with other content: the extension of a file counts more than a `maybe` of another format. */
  readonly beginsAnyhow?: boolean;
  readonly reading:
    | { readonly by: 'piece'; readonly reader: (sink: TrackSink, options: ReaderOptions) => TrackReader }
    /** A JSON document, which is read whole. @throws {InputError} with the path of what is wrong. */
    | { readonly by: 'document'; readonly deliver: (document: unknown, sink: TrackSink) => void };
  /** @param content the content, where it is known in advance: a writer may then leave out what is not needed. */
  readonly writer: (output: Output, content?: TrackContent) => TrackWriter;
}

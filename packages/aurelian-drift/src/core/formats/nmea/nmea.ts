import { NmeaDecoder } from './nmea-decoder.js';
import { gather, type ReadOptions, type TrackDocument } from '../track-document.js';
import { TrailPieces, type ReaderOptions, type TrackReader, type TrackSink } from '../track-sink.js';

/**
 * Reads NMEA 0183 (IEC 61162-1) that is in memory: RMC, GGA, GNS, GLL, VTG, ZDA and GST of any talker; sentences of one
 * time are merged into one fix. A line with a wrong checksum is left out with a note. Where the receiver had no fix, a
 * segment ends. Without any date the points are a line.
 */
export function readNmea(text: string, options: ReadOptions = {}): TrackDocument {
  return gather('readNmea', text, options, (sink) => new NmeaReader(sink));
}

/** Reads NMEA from pieces of text, into one trail. */
export class NmeaReader implements TrackReader {
  readonly #pieces: TrailPieces;
  readonly #decoder: NmeaDecoder;

  constructor(sink: TrackSink, { pieceSize }: ReaderOptions = {}) {
    const pieces = new TrailPieces(sink, pieceSize);
    this.#pieces = pieces;
    this.#decoder = new NmeaDecoder({
      fix: (fix) => pieces.room().append(fix),
      gap: () => pieces.breakSegment(),
      undated(parts, line) {
        sink.note({ line, text: 'no sentence has the date (RMC or ZDA), so its points are a line' });
        sink.line({ parts });
      },
      note: (note) => sink.note(note),
    });
  }

  write(text: string): void {
    this.#decoder.write(text);
  }

  end(): void {
    this.#decoder.end();
    this.#pieces.end();
  }
}

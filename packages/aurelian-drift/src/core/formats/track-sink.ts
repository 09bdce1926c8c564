import type { Line, Waypoint } from '../trail/line.js';
import type { Fix } from '../fix/fix.js';
import type { Extras } from '../trail/extras.js';
import { FixIntake } from '../trail/fix-intake.js';
import { Trail, type TrailLabels } from '../trail/trail.js';

/** A note about content of a file that was left out, with its line. */
export interface Note {
  readonly line: number;
  readonly text: string;
  /** Nothing is wrong: the content only has no place here, such as an unknown column. */
  readonly expected?: boolean;
}

/** Place of a piece in its trail. */
export interface PiecePlace {
  /** It is the start of a trail. */
  readonly first: boolean;
  /** It is the end of a trail. */
  readonly last: boolean;
  /** Its first fix continues the last segment of the piece before. */
  readonly joined: boolean;
}

/**
 * Takes the content of a file from a reader, in the order of the file. Trails come in pieces, so that files of any
 * length can be read.
 */
export interface TrackSink {
  /** A piece of a trail. A trail is complete, from `first` to `last`, before the next one begins. */
  trail(piece: Trail, place: PiecePlace): void;
  /** Points without times, recorded. */
  line(line: Line): void;
  /** Points without times, planned. */
  route(route: Line): void;
  waypoint(waypoint: Waypoint): void;
  note(note: Note): void;
  /** Name of the whole file. */
  title(name: string): void;
}

/** Options of `trackReader`. */
export interface ReaderOptions {
  /** Name of the text in errors. */
  readonly source?: string | undefined;
  /** Maximum number of fixes in a piece of a trail. Default: whole trails. */
  readonly pieceSize?: number | undefined;
}

/** A reader of text in pieces of any size. */
export interface TrackReader {
  /** @throws {InputError} for invalid text, with the line. */
  write(text: string): void;
  /** Delivers the rest. @throws {InputError} of kind `cut-short` afterwards, when the text is truncated. */
  end(): void;
}

/** Divides a trail that is being read into pieces, and passes them on. */
export class TrailPieces {
  readonly #sink: TrackSink;
  readonly #size: number;
  #labels: TrailLabels = {};
  #intake: FixIntake | undefined;
  #first = true;
  #joined = false;

  /** @param size fixes per piece; Infinity for whole trails. */
  constructor(sink: TrackSink, size = Infinity) {
    this.#sink = sink;
    this.#size = size;
  }

  /** Whether the open trail has a fix. */
  get begun(): boolean {
    return this.#intake !== undefined;
  }

  start(labels: TrailLabels): void {
    this.end();
    this.#labels = labels;
  }

  /** The trail that the next fix is appended to. */
  room(): Trail {
    return this.#room().trail;
  }

  /** Takes a checked fix with its additional data; a late one is inserted by its time, within this piece. */
  take(fix: Fix, extras?: Extras): void {
    this.#room().take(fix, extras);
  }

  #room(): FixIntake {
    if (this.#intake !== undefined && this.#intake.trail.length >= this.#size) this.#handOn(false);
    return (this.#intake ??= new FixIntake(new Trail(this.#labels)));
  }

  breakSegment(): void {
    if (this.#intake === undefined) this.#joined = false;
    else this.#intake.trail.breakSegment();
  }

  /** The trail ends. One without a fix is dropped. */
  end(): void {
    this.#handOn(true);
    this.#labels = {};
  }

  #handOn(last: boolean): void {
    const piece = this.#intake?.finish();
    if (piece === undefined) return;
    this.#sink.trail(piece, { first: this.#first, last, joined: this.#joined });
    this.#intake = undefined;
    this.#first = last;
    this.#joined = !last && !piece.broken;
  }
}

import type { Line, Waypoint } from '../trail/line.js';
import type { Fix } from '../fix/fix.js';
import type { Extras } from '../trail/extras.js';
import { FixIntake } from '../trail/fix-intake.js';
import { Trail, type TrailLabels } from '../trail/trail.js';

/** Something in a file that was passed over, and at which line. */
export interface Note {
  readonly line: number;
  readonly text: string;
  /** Nothing is wrong: it only has no place here, such as a column of another's. */
  readonly expected?: boolean;
}

/** Where a piece stands in its trail. */
export interface PiecePlace {
  /** It is the beginning of a trail. */
  readonly first: boolean;
  /** It is the end of a trail. */
  readonly last: boolean;
  /** Its first fix goes on with the segment that the piece before ended in. */
  readonly joined: boolean;
}

/**
 * What a reader tells of a file, in the order of the file. Trails come in pieces, so that a file of any length fits.
 */
export interface TrackSink {
  /** Some of the fixes of a trail. A trail comes whole, from `first` to `last`, before the next one. */
  trail(piece: Trail, place: PiecePlace): void;
  /** Points without times, recorded. */
  line(line: Line): void;
  /** Points without times, planned. */
  route(route: Line): void;
  waypoint(waypoint: Waypoint): void;
  note(note: Note): void;
  /** What the file as a whole is called. */
  title(name: string): void;
}

/** Options of `trackReader`. */
export interface ReaderOptions {
  /** A name for the text in errors. */
  readonly source?: string | undefined;
  /** Trails in pieces of so many fixes. Whole when absent. */
  readonly pieceSize?: number | undefined;
}

/** A reader of text in pieces of any size. */
export interface TrackReader {
  /** @throws {InputError} for what cannot be read, with the line. */
  write(text: string): void;
  /** Tells what is still open. @throws {InputError} of kind `cut-short`, after that, when the text ends too soon. */
  end(): void;
}

/** Cuts a trail that is being read into pieces of so many fixes, and hands them on. */
export class TrailPieces {
  readonly #sink: TrackSink;
  readonly #size: number;
  #labels: TrailLabels = {};
  #intake: FixIntake | undefined;
  #first = true;
  #joined = false;

  /** @param size fixes a piece; Infinity for trails whole. */
  constructor(sink: TrackSink, size = Infinity) {
    this.#sink = sink;
    this.#size = size;
  }

  /** Whether the trail that is open has a fix. */
  get begun(): boolean {
    return this.#intake !== undefined;
  }

  start(labels: TrailLabels): void {
    this.end();
    this.#labels = labels;
  }

  /** The trail that the next fix is to be appended to. */
  room(): Trail {
    return this.#room().trail;
  }

  /**
   * Takes a checked fix, with what others wrote beside it; one that came late goes to its place, as far as this piece
   * reaches.
   */
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

  /** The trail ends. One without a fix is none. */
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

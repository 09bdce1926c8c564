import { checkOptions, someText, yesOrNo } from '../check/options.js';
import { InputError } from '../check/input-error.js';
import type { Line, Waypoint } from '../trail/line.js';
import { appendTrail } from '../trail/part.js';
import type { Trail } from '../trail/trail.js';
import type { Note, PiecePlace, TrackReader, TrackSink } from './track-sink.js';

/** What goes into a file of tracks. */
export interface TrackContent {
  /** What the file as a whole is called. */
  readonly name?: string;
  readonly trails?: readonly Trail[];
  /** Points without times, recorded. */
  readonly lines?: readonly Line[];
  /** Points without times, planned. */
  readonly routes?: readonly Line[];
  readonly waypoints?: readonly Waypoint[];
}

/** What a file of tracks held. */
export interface TrackDocument extends Required<Omit<TrackContent, 'name'>> {
  readonly name?: string;
  /** What was passed over. */
  readonly notes: readonly Note[];
}

/** Gathers what a reader tells. */
export class TrackGatherer implements TrackSink {
  #name: string | undefined;
  readonly #trails: Trail[] = [];
  readonly #lines: Line[] = [];
  readonly #routes: Line[] = [];
  readonly #waypoints: Waypoint[] = [];
  readonly #notes: Note[] = [];

  trail(piece: Trail, { first, joined }: PiecePlace): void {
    const open = this.#trails.at(-1);
    if (first || open === undefined) this.#trails.push(piece);
    else appendTrail(open, piece, joined);
  }

  line(line: Line): void {
    this.#lines.push(line);
  }

  route(route: Line): void {
    this.#routes.push(route);
  }

  waypoint(waypoint: Waypoint): void {
    this.#waypoints.push(waypoint);
  }

  note(note: Note): void {
    this.#notes.push(note);
  }

  title(name: string): void {
    this.#name ??= name;
  }

  get document(): TrackDocument {
    return {
      ...(this.#name !== undefined && { name: this.#name }),
      trails: this.#trails,
      lines: this.#lines,
      routes: this.#routes,
      waypoints: this.#waypoints,
      notes: this.#notes,
    };
  }
}

/** Options of the readers of a whole text, such as `readGpx`. */
export interface ReadOptions {
  /** A name for the text in errors, usually the file's. */
  readonly source?: string;
  /** Refuse what would be left out with a note: a text that was cut short, a value that cannot be. Default false. */
  readonly strict?: boolean;
}

/** Reads a text that is in memory with a reader that is made for it. */
export function gather(
  owner: string,
  text: string,
  options: ReadOptions,
  makeReader: (sink: TrackSink, source: string | undefined) => TrackReader,
): TrackDocument {
  checkOptions(owner, options, { source: someText, strict: yesOrNo });
  const { source, strict = false } = options;
  const gatherer = new TrackGatherer();
  const sink = strict ? strictly(gatherer, source) : gatherer;
  if (text.trim() === '') throw emptyText(source);
  const reader = makeReader(sink, source);
  reader.write(text);
  endReading(reader, sink, strict);
  return gatherer.document;
}

export function emptyText(source: string | undefined): InputError {
  return new InputError('cut-short', 'the file is empty', {
    ...(source !== undefined && { source }),
    line: 1,
  });
}

/**
 * Ends a reading; a text that was cut short is noted, and what was whole in it counts, unless that is to be refused.
 */
export function endReading(reader: TrackReader, sink: TrackSink, strict: boolean): void {
  try {
    reader.end();
  } catch (error) {
    if (strict || !(error instanceof InputError) || error.kind !== 'cut-short') throw error;
    sink.note({ line: error.place.line ?? 1, text: error.reason });
  }
}

/** A sink that takes no note of anything wrong: it refuses it. */
export function strictly(sink: TrackSink, source: string | undefined): TrackSink {
  return {
    trail: (piece, place) => sink.trail(piece, place),
    line: (line) => sink.line(line),
    route: (route) => sink.route(route),
    waypoint: (waypoint) => sink.waypoint(waypoint),
    title: (name) => sink.title(name),
    note(note) {
      if (note.expected === true) sink.note(note);
      else
        throw new InputError('bad-value', note.text, {
          ...(source !== undefined && { source }),
          line: note.line,
        });
    },
  };
}

/** Tells a sink what is at hand: waypoints first, as formats with an order have it. */
export function deliverTracks(
  { name, trails = [], lines = [], routes = [], waypoints = [] }: TrackContent,
  sink: TrackSink,
): void {
  if (name !== undefined) sink.title(name);
  for (const waypoint of waypoints) sink.waypoint(waypoint);
  for (const route of routes) sink.route(route);
  for (const line of lines) sink.line(line);
  for (const trail of trails)
    if (trail.length > 0) sink.trail(trail, { first: true, last: true, joined: false });
}

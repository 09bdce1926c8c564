import { checkOptions, someText, yesOrNo } from '../check/options.js';
import { InputError } from '../check/input-error.js';
import type { Line, Waypoint } from '../trail/line.js';
import { appendTrail } from '../trail/part.js';
import type { Trail } from '../trail/trail.js';
import type { Note, PiecePlace, TrackReader, TrackSink } from './track-sink.js';

/** Content of a file of tracks. */
export interface TrackContent {
  /** Name of the whole file. */
  readonly name?: string;
  readonly trails?: readonly Trail[];
  /** Points without times, recorded. */
  readonly lines?: readonly Line[];
  /** Points without times, planned. */
  readonly routes?: readonly Line[];
  readonly waypoints?: readonly Waypoint[];
}

/** Content that was read from a file of tracks. */
export interface TrackDocument extends Required<Omit<TrackContent, 'name'>> {
  readonly name?: string;
  /** Notes about content that was left out. */
  readonly notes: readonly Note[];
}

/** Collects the content that a reader delivers. */
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
  /** Name of the text in errors, usually that of the file. */
  readonly source?: string;
  /** Refuse what would otherwise be left out with a note: a truncated text, an impossible value. Default false. */
  readonly strict?: boolean;
}

/** Reads a text that is in memory with a new reader. */
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

/** Ends a reading. A truncated text is noted and its complete part is used, unless that is to be refused. */
export function endReading(reader: TrackReader, sink: TrackSink, strict: boolean): void {
  try {
    reader.end();
  } catch (error) {
    if (strict || !(error instanceof InputError) || error.kind !== 'cut-short') throw error;
    sink.note({ line: error.place.line ?? 1, text: error.reason });
  }
}

/** A sink that refuses content instead of noting it. */
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

/** Passes content to a sink: waypoints first, as in formats with an order. */
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

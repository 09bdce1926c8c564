import type { SaxesTagPlain } from 'saxes';
import type { RawFix } from '../../fix/fix.js';
import { salvage } from '../../fix/salvage.js';
import { positionProblem } from '../../geodesy/position.js';
import { MAX_KEYS, isExtraKey } from '../../trail/extras.js';
import type { Line, LinePoint } from '../../trail/line.js';
import { decimalOf } from '../decimal.js';
import { rawColumns, type FixColumn } from '../fix-columns.js';
import { KIND, POINTS, VEILED } from './kml-words.js';
import { withPointExtras } from '../point-extras.js';
import { parseTime } from '../time.js';
import { gather, type ReadOptions, type TrackDocument } from '../track-document.js';
import { TrailPieces, type ReaderOptions, type TrackReader, type TrackSink } from '../track-sink.js';
import { XmlParser, localName } from '../xml-parser.js';

/**
 * Reads KML 2.3 or 2.2 that is in memory: Tracks with times are trails, line strings are lines, points are waypoints;
 * areas, pictures, links and styles are ignored, and no link is followed. An altitude is used when its mode is
 * `absolute`: above the sea.
 *
 * @throws {InputError} with source and line.
 */
export function readKml(text: string, options: ReadOptions = {}): TrackDocument {
  return gather('readKml', text, options, (sink, source) => new KmlReader(sink, { source }));
}

/** A Track during reading: the standard has all times first, then all positions. */
interface OpenTrack {
  readonly whens: number[];
  /** Longitude, latitude and altitude of each position. */
  readonly coords: number[];
  readonly lines: number[];
  readonly columns: Map<string, string[]>;
  altitudeMode: string;
}

interface OpenPlacemark {
  name?: string;
  description?: string;
  time?: number;
  route: boolean;
  veiled?: number;
  points?: unknown;
  extras?: Record<string, string>;
  readonly tracks: OpenTrack[];
  readonly parts: LinePoint[][];
  readonly places: LinePoint[];
}

/** Maximum characters of one element: a line of some million points. */
const LONGEST_COORDINATES = 100_000_000;

/** Elements whose text is used. */
const TEXTS = new Set(['name', 'description', 'when', 'coord', 'value', 'coordinates', 'altitudeMode']);

/** Reads KML from pieces of text. One Placemark is in memory at a time. */
export class KmlReader implements TrackReader {
  readonly #parser: XmlParser;
  readonly #sink: TrackSink;
  readonly #pieces: TrailPieces;
  /** Local names of the open elements. */
  readonly #path: string[] = [];
  #text: string | undefined;
  #placemark: OpenPlacemark | undefined;
  #track: OpenTrack | undefined;
  /** Mode of the open geometry, and the name of the open array or datum. */
  #altitudeMode = '';
  #array = '';
  #datum = '';

  constructor(sink: TrackSink, { source, pieceSize }: ReaderOptions = {}) {
    this.#sink = sink;
    this.#pieces = new TrailPieces(sink, pieceSize);
    this.#parser = new XmlParser(
      source,
      (tag) => this.#open(tag),
      () => this.#close(),
      (text) => {
        if (this.#text !== undefined) this.#text += text;
      },
      LONGEST_COORDINATES,
    );
  }

  write(text: string): void {
    this.#parser.write(text);
  }

  end(): void {
    try {
      this.#parser.end();
    } catch (error) {
      // Truncated: the complete part of the Placemark is delivered.
      if (this.#track !== undefined) this.#placemark?.tracks.push(this.#track);
      if (this.#placemark !== undefined) this.#report(this.#placemark);
      throw error;
    }
  }

  #open(tag: SaxesTagPlain): void {
    const name = localName(tag.name);
    this.#parser.checkDepth(this.#path.length);
    if (this.#path.length === 0 && name !== 'kml')
      throw this.#parser.error('not-this-format', `this is not KML: it starts with <${tag.name}>`);
    this.#path.push(name);
    this.#text = TEXTS.has(name) ? '' : undefined;
    switch (name) {
      case 'Placemark':
        this.#placemark = { route: false, tracks: [], parts: [], places: [] };
        break;
      case 'Track':
        this.#track = { whens: [], coords: [], lines: [], columns: new Map(), altitudeMode: '' };
        break;
      case 'Point':
      case 'LineString':
      case 'LinearRing':
        this.#altitudeMode = '';
        break;
      case 'SimpleArrayData':
        this.#array = tag.attributes['name'] ?? '';
        this.#track?.columns.set(this.#array, []);
        break;
      case 'Data':
        this.#datum = tag.attributes['name'] ?? '';
    }
  }

  #close(): void {
    const name = this.#path.pop() ?? '';
    const parent = this.#path.at(-1) ?? '';
    const text = this.#text;
    this.#text = undefined;
    if (text !== undefined) this.#takeText(name, parent, text);
    if (name === 'Track' && this.#track !== undefined) {
      this.#placemark?.tracks.push(this.#track);
      this.#track = undefined;
    }
    if (name === 'Placemark' && this.#placemark !== undefined) {
      this.#report(this.#placemark);
      this.#placemark = undefined;
    }
  }

  #takeText(name: string, parent: string, text: string): void {
    const placemark = this.#placemark;
    switch (name) {
      case 'name':
        if (parent === 'Placemark' && placemark !== undefined) placemark.name = text;
        if (parent === 'Document') this.#sink.title(text);
        break;
      case 'description':
        if (parent === 'Placemark' && placemark !== undefined) placemark.description = text;
        break;
      case 'when':
        if (this.#track !== undefined) this.#track.whens.push(parseTime(text.trim()));
        else if (placemark !== undefined) placemark.time = parseTime(text.trim());
        break;
      case 'altitudeMode':
        if (parent === 'Track' && this.#track !== undefined) this.#track.altitudeMode = text.trim();
        else this.#altitudeMode = text.trim();
        break;
      case 'coord':
        this.#coord(text);
        break;
      case 'value':
        if (parent === 'SimpleArrayData') this.#track?.columns.get(this.#array)?.push(text);
        if (parent === 'Data' && placemark !== undefined) takeDatum(placemark, this.#datum, text);
        break;
      case 'coordinates':
        if (parent === 'LineString') placemark?.parts.push(this.#coordinates(text));
        if (parent === 'Point') placemark?.places.push(...this.#coordinates(text));
    }
  }

  #coord(text: string): void {
    const track = this.#track;
    if (track === undefined) return;
    const [lon = NaN, lat = NaN, altitude = NaN] = text.trim().split(/\s+/).map(decimalOf);
    track.coords.push(lon, lat, altitude);
    track.lines.push(this.#parser.line);
  }

  #coordinates(text: string): LinePoint[] {
    // The standard separates tuples by spaces and has none inside; some writers put one after each comma.
    return tuplesIn(text).map((tuple) => {
      const [lon = NaN, lat = NaN, altitude = NaN] = tuple.split(',').map(decimalOf);
      const problem = positionProblem(lat, lon);
      if (problem !== undefined) throw this.#parser.error('impossible-position', problem);
      const high = this.#altitudeMode === 'absolute' && !Number.isNaN(altitude) ? { altitude } : {};
      return { lat: lat + 0, lon: lon + 0, ...high };
    });
  }

  #report(placemark: OpenPlacemark): void {
    const { name, description, extras, veiled, time, tracks, parts, points, places } = placemark;
    const labels = {
      ...(name !== undefined && { name }),
      ...(description !== undefined && { description }),
      ...(extras !== undefined && { extras }),
    };
    for (const place of places)
      this.#sink.waypoint({
        ...place,
        ...labels,
        ...(time !== undefined && !Number.isNaN(time) && { time }),
      });
    if (parts.length > 0)
      this.#tellLine({ ...labels, parts: withPointExtras(parts, points) }, placemark.route);
    const timed = tracks.filter(({ whens }) => whens.length > 0);
    const untimed = tracks.filter(({ whens, coords }) => whens.length === 0 && coords.length > 0);
    if (untimed.length > 0) this.#tellLine({ ...labels, parts: untimed.map(pointsOf) }, placemark.route);
    if (timed.length === 0) return;
    this.#pieces.start({ ...labels, ...(veiled !== undefined && { veiled }) });
    for (const track of timed) this.#segment(track);
    this.#pieces.end();
  }

  #tellLine(line: Line, route: boolean): void {
    if (route) this.#sink.route(line);
    else this.#sink.line(line);
  }

  #segment(track: OpenTrack): void {
    const { whens, lines } = track;
    if (whens.length !== lines.length)
      this.#sink.note({
        line: lines[0] ?? this.#parser.line,
        text: `a Track has ${whens.length} times and ${lines.length} places; what has no partner is left out`,
      });
    this.#pieces.breakSegment();
    // At most as many as a trail keeps: a file with endless columns must not be visited for every fix.
    const extras = [...track.columns].filter(([key]) => isExtraKey(key)).slice(0, MAX_KEYS);
    for (let i = 0; i < Math.min(whens.length, lines.length); i++) {
      const line = lines[i] as number;
      if (Number.isNaN(whens[i])) {
        this.#sink.note({ line, text: 'a fix without a full time left out' });
        continue;
      }
      const raw = rawFix(track, i);
      const misplaced = positionProblem(raw.lat, raw.lon);
      if (misplaced !== undefined) throw this.#parser.error('impossible-position', misplaced).at({ line });
      const { fix, problems } = salvage(raw);
      if (fix !== undefined) {
        const trail = this.#pieces.room();
        trail.append(fix);
        for (const [key, texts] of extras) {
          const text = texts[i];
          if (text !== undefined && text !== '') trail.setExtra(trail.length - 1, key, text);
        }
      }
      for (const problem of problems) this.#sink.note({ line, text: `${problem}; left out` });
    }
  }
}

/**
 * The tuples of a list of coordinates, without spaces: a piece that begins or ends with a comma belongs to its
 * neighbour.
 */
function tuplesIn(text: string): string[] {
  const tuples: string[] = [];
  let pieces: string[] = [];
  for (const piece of text.split(/\s+/)) {
    if (piece === '') continue;
    const goesOn = piece.startsWith(',') || pieces.at(-1)?.endsWith(',') === true;
    if (!goesOn && pieces.length > 0) {
      tuples.push(pieces.join(''));
      pieces = [];
    }
    pieces.push(piece);
  }
  if (pieces.length > 0) tuples.push(pieces.join(''));
  return tuples;
}

function takeDatum(placemark: OpenPlacemark, name: string, value: string): void {
  if (name === KIND) placemark.route = value.trim() === 'route';
  if (name === POINTS) placemark.points = parsedOrNothing(value);
  if (isExtraKey(name)) {
    const extras = (placemark.extras ??= {});
    if (Object.keys(extras).length < MAX_KEYS) extras[name] = value;
  }
  if (name === VEILED && /^\d{1,9}$/.test(value.trim())) placemark.veiled = Number(value);
}

/** JSON from a file of another writer may be anything. */
function parsedOrNothing(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

function rawFix({ whens, coords, columns, altitudeMode }: OpenTrack, i: number): RawFix {
  const cell = (column: FixColumn) => columns.get(column)?.[i];
  const altitude = coords[3 * i + 2] as number;
  const above =
    !columns.has('altitude') && altitudeMode === 'absolute'
      ? { altitude, altitudeDatum: 'sea' as const }
      : {};
  return {
    ...rawColumns((column) => decimalOf(cell(column)), cell),
    ...above,
    time: whens[i] as number,
    lon: coords[3 * i] as number,
    lat: coords[3 * i + 1] as number,
  };
}

function pointsOf({ coords, lines, altitudeMode }: OpenTrack): LinePoint[] {
  return lines.map((_, i) => {
    const [lon, lat, altitude] = coords.slice(3 * i, 3 * i + 3) as [number, number, number];
    const high = altitudeMode === 'absolute' && !Number.isNaN(altitude) ? { altitude } : {};
    return { lat, lon, ...high };
  });
}

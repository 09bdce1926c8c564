import type { SaxesTagPlain } from 'saxes';
import { positionFault } from '../geodesy/position.js';
import { decimalOf } from './decimal.js';
import { parseTime } from './time.js';
import type { TrackReader } from './track-sink.js';
import { LONGEST_TEXT, XmlParser, localName } from './xml-parser.js';

/**
 * A point as GPX has it, of a track, a route, or on its own; numbers that are missing are NaN. The reader uses one for
 * all: it holds only until the sink returns.
 */
export interface GpxPoint {
  lat: number;
  lon: number;
  line: number;
  time: number;
  altitude: number;
  accuracy: number;
  altitudeAccuracy: number;
  course: number;
  speed: number;
  altitudeDatum: string | undefined;
  origin: string | undefined;
  marks: string | undefined;
  name: string | undefined;
  description: string | undefined;
}

/** What a `GpxReader` tells, in the order of the file. */
export interface GpxSink {
  trackStart(): void;
  /** The name or description of the track or route that is open. */
  label(of: 'track' | 'route' | 'file', kind: 'name' | 'description' | 'veiled', text: string): void;
  segmentStart(): void;
  trackPoint(point: GpxPoint): void;
  trackEnd(): void;
  routeStart(): void;
  routePoint(point: GpxPoint): void;
  routeEnd(): void;
  waypoint(point: GpxPoint): void;
}

type Leaf = (point: GpxPoint, text: string) => void;

/** Leaves of a point, by local name, wherever they stand in it: GPX 1.0 and many writers put some in other places. */
const LEAVES: Readonly<Record<string, Leaf>> = {
  ele: (point, text) => (point.altitude = decimalOf(text)),
  time: (point, text) => (point.time = parseTime(text.trim())),
  name: (point, text) => (point.name ??= text),
  desc: (point, text) => (point.description ??= text),
  speed: (point, text) => (point.speed = decimalOf(text)),
  course: (point, text) => (point.course = decimalOf(text)),
  accuracy: (point, text) => (point.accuracy = decimalOf(text)),
  altitudeAccuracy: (point, text) => (point.altitudeAccuracy = decimalOf(text)),
  altitudeDatum: (point, text) => (point.altitudeDatum = text.trim()),
  origin: (point, text) => (point.origin = text.trim()),
  marks: (point, text) => (point.marks = text.trim()),
};

/**
 * Reads GPX 1.1 and 1.0 from pieces of text of any size, in one pass and a flat memory.
 *
 * Elements are known by their local names, whatever their prefix or namespace; what is not known is passed
 * over. External entities are never expanded.
 */
export class GpxReader implements TrackReader {
  readonly #parser: XmlParser;
  readonly #sink: GpxSink;
  #owner: 'track' | 'route' | 'file' = 'file';
  #ownerDepth = 0;
  readonly #only: GpxPoint = {
    lat: NaN,
    lon: NaN,
    line: 0,
    time: NaN,
    altitude: NaN,
    accuracy: NaN,
    altitudeAccuracy: NaN,
    course: NaN,
    speed: NaN,
    altitudeDatum: undefined,
    origin: undefined,
    marks: undefined,
    name: undefined,
    description: undefined,
  };
  #point: GpxPoint | undefined;
  #pointDepth = 0;
  #capturing = false;
  #captured = '';
  #leaf: Leaf | undefined;
  #text = '';
  /** The leaves of the point before, in their order: those of the next one are nearly always the same. */
  readonly #sequence: { name: string; leaf: Leaf | undefined }[] = [];
  #step = 0;
  /** What each tag name seen so far stands for, so that prefixes are taken off once a name and not once a tag. */
  readonly #leaves = new Map<string, Leaf | null>();

  constructor(sink: GpxSink, source?: string) {
    this.#sink = sink;
    this.#parser = new XmlParser(
      source,
      (tag, depth) => this.#open(tag, depth),
      (tag, depth) => this.#close(tag, depth),
      (text) => {
        if (!this.#capturing) return;
        // Nearly always there is one piece; joining it to nothing would cost a string.
        this.#text = this.#text === '' ? text : this.#text + text;
        if (this.#text.length > LONGEST_TEXT) throw this.#parser.tooLong(this.#captured);
      },
    );
  }

  /** @throws {InputError} for what is not well-formed, is not GPX, or has an impossible position. */
  write(text: string): void {
    this.#parser.write(text);
  }

  /** @throws {InputError} of kind `cut-short` when the file ends too soon. */
  end(): void {
    try {
      this.#parser.end();
    } catch (error) {
      // Cut short: what is whole of the track or route is told; the point that was begun is not.
      this.#endOwner();
      throw error;
    }
  }

  #open(tag: SaxesTagPlain, depth: number): void {
    if (this.#point !== undefined) {
      this.#leaf = this.#nextLeaf(tag.name);
      this.#capturing = this.#leaf !== undefined;
      this.#captured = tag.name;
      this.#text = '';
      return;
    }
    const name = localName(tag.name);
    if (depth === 1) {
      if (name !== 'gpx')
        throw this.#parser.error('not-this-format', `this is not GPX: it starts with <${tag.name}>`);
      return;
    }
    switch (name) {
      case 'trkpt':
      case 'rtept':
      case 'wpt':
        this.#point = this.#pointOf(tag);
        this.#pointDepth = depth;
        break;
      case 'trk':
        this.#owner = 'track';
        this.#ownerDepth = depth;
        this.#sink.trackStart();
        break;
      case 'trkseg':
        this.#sink.segmentStart();
        break;
      case 'rte':
        this.#owner = 'route';
        this.#ownerDepth = depth;
        this.#sink.routeStart();
        break;
      case 'name':
      case 'desc':
        // Only of the track, route or file itself, not of something within its extensions.
        this.#captured = tag.name;
        this.#capturing = depth === this.#ownerDepth + 1 || (depth <= 3 && this.#owner === 'file');
        this.#text = '';
        break;
      case 'veiled':
        // In the extensions of the track.
        this.#capturing = depth === this.#ownerDepth + 2;
        this.#text = '';
    }
  }

  #close(tag: SaxesTagPlain, depth: number): void {
    const point = this.#point;
    if (point !== undefined) {
      if (this.#leaf !== undefined) {
        this.#leaf(point, this.#text);
        this.#leaf = undefined;
        this.#capturing = false;
      }
      if (depth !== this.#pointDepth) return;
      this.#point = undefined;
      const name = localName(tag.name);
      if (name === 'trkpt') this.#sink.trackPoint(point);
      else if (name === 'rtept') this.#sink.routePoint(point);
      else this.#sink.waypoint(point);
      return;
    }
    if (this.#capturing) {
      this.#capturing = false;
      const name = localName(tag.name);
      this.#sink.label(
        this.#owner,
        name === 'desc' ? 'description' : (name as 'name' | 'veiled'),
        this.#text,
      );
      return;
    }
    if (depth === this.#ownerDepth) this.#endOwner();
  }

  #endOwner(): void {
    if (this.#owner === 'track') this.#sink.trackEnd();
    if (this.#owner === 'route') this.#sink.routeEnd();
    this.#owner = 'file';
    this.#ownerDepth = 0;
  }

  /** The leaf of a tag: by comparison with the one that stood here before, which is quicker than to look it up. */
  #nextLeaf(name: string): Leaf | undefined {
    const step = this.#step++;
    const expected = this.#sequence[step];
    if (expected?.name === name) return expected.leaf;
    const leaf = this.#leafOf(name);
    if (step < 64) this.#sequence[step] = { name, leaf };
    return leaf;
  }

  #leafOf(tagName: string): Leaf | undefined {
    const known = this.#leaves.get(tagName);
    if (known !== undefined) return known ?? undefined;
    const name = localName(tagName);
    const leaf = Object.hasOwn(LEAVES, name) ? LEAVES[name] : undefined;
    // A file of endless invented names must not fill the memory.
    if (this.#leaves.size < 1000) this.#leaves.set(tagName, leaf ?? null);
    return leaf;
  }

  #pointOf(tag: SaxesTagPlain): GpxPoint {
    const lat = decimalOf(tag.attributes['lat']);
    const lon = decimalOf(tag.attributes['lon']);
    if (!(Math.abs(lat) <= 90 && Math.abs(lon) <= 180)) {
      const shown = (text: string | undefined, value: number) => (Number.isNaN(value) ? text : value);
      const fault = positionFault(shown(tag.attributes['lat'], lat), shown(tag.attributes['lon'], lon));
      throw this.#parser.error('impossible-position', fault ?? 'impossible position');
    }
    this.#step = 0;
    const point = this.#only;
    point.lat = lat;
    point.lon = lon;
    point.line = this.#parser.line;
    point.time = point.altitude = point.accuracy = point.altitudeAccuracy = point.course = point.speed = NaN;
    point.altitudeDatum = point.origin = point.marks = point.name = point.description = undefined;
    return point;
  }
}

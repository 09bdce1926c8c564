import { SaxesParser, type SaxesTagPlain } from 'saxes';
import { InputError } from '../check/input-error.js';
import { positionFault } from '../geodesy/position.js';
import { parseTime } from './time.js';

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
  label(of: 'track' | 'route' | 'file', kind: 'name' | 'description', text: string): void;
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
export class GpxReader {
  readonly #parser: SaxesParser;
  readonly #sink: GpxSink;
  readonly #source: string | undefined;
  #depth = 0;
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
  #leaf: Leaf | undefined;
  #text = '';
  /** The leaves of the point before, in their order: those of the next one are nearly always the same. */
  readonly #sequence: { name: string; leaf: Leaf | undefined }[] = [];
  #step = 0;
  /** What each tag name seen so far stands for, so that prefixes are taken off once a name and not once a tag. */
  readonly #leaves = new Map<string, Leaf | null>();

  constructor(sink: GpxSink, source?: string) {
    this.#sink = sink;
    this.#source = source;
    this.#parser = new SaxesParser();
    this.#parser.on('error', (error) => {
      throw this.#broken(error.message);
    });
    this.#parser.on('opentag', (tag) => this.#open(tag));
    this.#parser.on('closetag', (tag) => this.#close(tag));
    const keep = (text: string) => {
      // Nearly always there is one piece; joining it to nothing would cost a string.
      if (this.#capturing) this.#text = this.#text === '' ? text : this.#text + text;
    };
    this.#parser.on('text', keep);
    this.#parser.on('cdata', keep);
  }

  /** @throws {InputError} for what is not well-formed, is not GPX, or has an impossible position. */
  write(text: string): void {
    this.#parser.write(text);
  }

  /** @throws {InputError} of kind `cut-short` when the file ends too soon. */
  end(): void {
    this.#parser.close();
  }

  #open(tag: SaxesTagPlain): void {
    const depth = ++this.#depth;
    if (this.#point !== undefined) {
      this.#leaf = this.#nextLeaf(tag.name);
      this.#capturing = this.#leaf !== undefined;
      this.#text = '';
      return;
    }
    const name = localName(tag.name);
    if (depth === 1) {
      if (name !== 'gpx')
        throw this.#error('not-this-format', `this is not GPX: it starts with <${tag.name}>`);
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
        this.#capturing = depth === this.#ownerDepth + 1 || (depth <= 3 && this.#owner === 'file');
        this.#text = '';
    }
  }

  #close(tag: SaxesTagPlain): void {
    const depth = this.#depth--;
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
      this.#sink.label(this.#owner, localName(tag.name) === 'name' ? 'name' : 'description', this.#text);
      return;
    }
    if (depth !== this.#ownerDepth) return;
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
      throw this.#error('impossible-position', fault ?? 'impossible position');
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

  #error(kind: 'not-this-format' | 'impossible-position' | 'cut-short', reason: string): InputError {
    const { line, column } = this.#parser;
    return new InputError(kind, reason, {
      ...(this.#source !== undefined && { source: this.#source }),
      line,
      column,
    });
  }

  /** The parser's own complaint, without the place it puts before it. */
  #broken(message: string): InputError {
    const reason = message.replace(/^(.*?:)?\d+:\d+: /, '').replace(/\.$/, '');
    const unclosed = /^unclosed tag: (.+)$/.exec(reason);
    if (unclosed !== null)
      return this.#error('cut-short', `the file ends inside <${unclosed[1] ?? ''}>; it was cut short`);
    if (reason.startsWith('unexpected end'))
      return this.#error('cut-short', 'the file ends in the middle of a tag; it was cut short');
    return this.#error('not-this-format', `this is not well-formed XML: ${reason}`);
  }
}

function localName(name: string): string {
  const colon = name.indexOf(':');
  return colon < 0 ? name : name.slice(colon + 1);
}

/** Powers of ten that a double holds exactly, up to what 15 digits may be divided by. */
const POWERS_OF_TEN = Array.from({ length: 16 }, (_, i) => 10 ** i);

/**
 * A decimal number in text; NaN for anything else, the empty text included.
 *
 * Up to 15 digits make a whole number that a double holds exactly, and its quotient by an exact power of ten is rounded
 * once, to the very double that the general parser gives (W. D. Clinger, "How to read floating point numbers
 * accurately", PLDI 1990); it takes a third of the time.
 */
function decimalOf(text: string | undefined): number {
  if (text === undefined) return NaN;
  const { length } = text;
  const negative = text.charCodeAt(0) === 45;
  let digits = 0;
  let whole = 0;
  let point = -1;
  for (let i = negative ? 1 : 0; i < length; i++) {
    const digit = text.charCodeAt(i) - 48;
    if (digit >= 0 && digit <= 9) {
      whole = whole * 10 + digit;
      digits++;
    } else if (digit === -2 && point < 0) {
      point = i;
    } else {
      return generalDecimal(text);
    }
  }
  if (digits === 0 || digits > 15) return generalDecimal(text);
  const value = point < 0 ? whole : whole / (POWERS_OF_TEN[length - 1 - point] as number);
  return negative ? -value : value;
}

function generalDecimal(text: string): number {
  return /^\s*[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?\s*$/.test(text) ? Number(text) : NaN;
}

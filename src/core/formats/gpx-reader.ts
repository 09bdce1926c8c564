import { SaxesParser, type SaxesTagPlain } from 'saxes';
import { InputError } from '../check/input-error.js';
import { positionFault } from '../geodesy/position.js';
import { parseTime } from './time.js';

/** A point as GPX has it, of a track, a route, or on its own; numbers that are missing are NaN. */
export interface GpxPoint {
  readonly lat: number;
  readonly lon: number;
  readonly line: number;
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

/** Leaves of a point, by local name, wherever they stand in it: GPX 1.0 and many writers put some in other places. */
const LEAVES: Readonly<Record<string, (point: GpxPoint, text: string) => void>> = {
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
  #point: GpxPoint | undefined;
  #pointDepth = 0;
  #capturing = false;
  #text = '';

  constructor(sink: GpxSink, source?: string) {
    this.#sink = sink;
    this.#source = source;
    this.#parser = new SaxesParser();
    this.#parser.on('error', (error) => {
      throw this.#broken(error.message);
    });
    this.#parser.on('opentag', (tag) => this.#open(tag));
    this.#parser.on('closetag', (tag) => this.#close(tag));
    this.#parser.on('text', (text) => {
      if (this.#capturing) this.#text += text;
    });
    this.#parser.on('cdata', (text) => {
      if (this.#capturing) this.#text += text;
    });
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
    const name = localName(tag.name);
    const depth = ++this.#depth;
    if (depth === 1) {
      if (name !== 'gpx')
        throw this.#error('not-this-format', `this is not GPX: it starts with <${tag.name}>`);
      return;
    }
    if (this.#point !== undefined) {
      this.#capturing = Object.hasOwn(LEAVES, name);
      this.#text = '';
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
    const name = localName(tag.name);
    const depth = this.#depth--;
    const point = this.#point;
    if (point !== undefined) {
      if (this.#capturing) {
        LEAVES[name]?.(point, this.#text);
        this.#capturing = false;
      }
      if (depth !== this.#pointDepth) return;
      this.#point = undefined;
      if (name === 'trkpt') this.#sink.trackPoint(point);
      else if (name === 'rtept') this.#sink.routePoint(point);
      else this.#sink.waypoint(point);
      return;
    }
    if (this.#capturing) {
      this.#capturing = false;
      this.#sink.label(this.#owner, name === 'name' ? 'name' : 'description', this.#text);
      return;
    }
    if (depth !== this.#ownerDepth) return;
    if (this.#owner === 'track') this.#sink.trackEnd();
    if (this.#owner === 'route') this.#sink.routeEnd();
    this.#owner = 'file';
    this.#ownerDepth = 0;
  }

  #pointOf(tag: SaxesTagPlain): GpxPoint {
    const lat = decimalOf(tag.attributes['lat']);
    const lon = decimalOf(tag.attributes['lon']);
    if (!(Math.abs(lat) <= 90 && Math.abs(lon) <= 180)) {
      const shown = (text: string | undefined, value: number) => (Number.isNaN(value) ? text : value);
      const fault = positionFault(shown(tag.attributes['lat'], lat), shown(tag.attributes['lon'], lon));
      throw this.#error('impossible-position', fault ?? 'impossible position');
    }
    return {
      lat,
      lon,
      line: this.#parser.line,
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

/** A decimal number in text; NaN for anything else, the empty text included. */
function decimalOf(text: string | undefined): number {
  if (text === undefined) return NaN;
  const value = Number(text);
  // Number() takes blanks for 0 and reads 0x10; both show in a zero or in a second character beyond the digits.
  if (value === 0 || !(text.charCodeAt(1) <= 57))
    return /^\s*[-+]?(\d+\.?\d*|\.\d+)\s*$/.test(text) ? value : NaN;
  return value;
}

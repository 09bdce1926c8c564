import type { SaxesTagPlain } from 'saxes';
import { positionProblem } from '../../geodesy/position.js';
import { decimalOf } from '../decimal.js';
import { gpxKey } from './gpx-extras.js';
import { DRIFT_NAMESPACE, GPX_NAMESPACE } from './gpx-words.js';
import { parseTime } from '../time.js';
import type { TrackReader } from '../track-sink.js';
import { XmlParser, localName } from '../xml-parser.js';

/**
 * A point of GPX: of a track, a route, or on its own; missing numbers are NaN. The reader uses one object for all: it
 * is valid only until the sink returns.
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
  extras: Record<string, string> | undefined;
}

/** Takes the content that a `GpxReader` delivers, in the order of the file. */
export interface GpxSink {
  trackStart(): void;
  /** Name or description of the open track or route. */
  label(owner: 'track' | 'route' | 'file', kind: 'name' | 'description' | 'veiled', text: string): void;
  /** Additional data of the open track or route, by key. */
  extra(owner: 'track' | 'route', key: string, text: string): void;
  segmentStart(): void;
  trackPoint(point: GpxPoint): void;
  trackEnd(): void;
  routeStart(): void;
  routePoint(point: GpxPoint): void;
  routeEnd(): void;
  waypoint(point: GpxPoint): void;
}

type Leaf = (point: GpxPoint, text: string) => void;

/** An element that only contains others: it has no value itself. */
const HOLDER: Leaf = () => undefined;

/**
 * Elements with a value in a point, by local name; those without a place in the standard anywhere, because writers put
 * them in many places.
 */
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
  extensions: HOLDER,
};
/** Elements of the standard: in an extension such a name belongs to another writer. */
const DIRECT: ReadonlySet<Leaf | undefined> = new Set(
  ['ele', 'time', 'name', 'desc'].map((name) => LEAVES[name]),
);

const LINK = gpxKey('link');
const VEILED = `{${DRIFT_NAMESPACE}}veiled`;
/** GPX 1.0 has the same elements in a namespace of its own. */
const OLD_NAMESPACE = 'http://www.topografix.com/GPX/1/0';

/** Namespace of each prefix in force. */
class Namespaces {
  readonly #known = new Map<string, string>();
  readonly #keys = new Map<string, string>();
  /** Declarations that inner ones have replaced, the innermost last. */
  readonly #hidden: {
    readonly depth: number;
    readonly prefix: string;
    readonly before: string | undefined;
  }[] = [];
  /** Depth of the innermost element with a declaration; 0 for none. */
  deepest = 0;

  /** Takes the declarations of a tag. */
  take({ attributes }: SaxesTagPlain, depth: number): void {
    for (const name in attributes) {
      if (!name.startsWith('xmlns')) continue;
      const prefix = name === 'xmlns' ? '' : name.slice(6);
      this.#hidden.push({ depth, prefix, before: this.#known.get(prefix) });
      this.#known.set(prefix, attributes[name] ?? '');
      this.#keys.clear();
      this.deepest = depth;
    }
  }

  /** Ends the declarations of an element. */
  leave(depth: number): void {
    for (let last = this.#hidden.at(-1); last?.depth === depth; last = this.#hidden.at(-1)) {
      this.#hidden.pop();
      if (last.before === undefined) this.#known.delete(last.prefix);
      else this.#known.set(last.prefix, last.before);
    }
    this.#keys.clear();
    this.deepest = this.#hidden.at(-1)?.depth ?? 0;
  }

  /** Key of an element: '' for one that only contains others, and for an undeclared prefix. */
  keyOf(tagName: string): string {
    const known = this.#keys.get(tagName);
    if (known !== undefined) return known;
    const name = localName(tagName);
    const prefix = tagName.slice(0, Math.max(0, tagName.length - name.length - 1));
    const uri = this.#known.get(prefix) ?? (prefix === '' ? GPX_NAMESPACE : '');
    const inGpx = uri === GPX_NAMESPACE || uri === OLD_NAMESPACE || (prefix === '' && uri === '');
    const key =
      (inGpx && name === 'extensions') || (!inGpx && uri === '')
        ? ''
        : `{${inGpx ? GPX_NAMESPACE : uri}}${name}`;
    if (this.#keys.size < 1000) this.#keys.set(tagName, key);
    return key;
  }
}

/**
 * Reads GPX 1.1 and 1.0 from pieces of text of any size, in one pass and constant memory.
 *
 * Elements are known by their local names, whatever their prefix or namespace; unknown data of a point, a track or a
 * route is kept as text. External entities are never expanded.
 */
export class GpxReader implements TrackReader {
  readonly #parser: XmlParser;
  readonly #sink: GpxSink;
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
    extras: undefined,
  };
  #point: GpxPoint | undefined;
  #pointDepth = 0;
  #capturing = false;
  #leaf: Leaf | undefined;
  #text = '';
  /** Elements of the point before, in their order: those of the next one are nearly always the same. */
  readonly #sequence: { name: string; leaf: Leaf | undefined }[] = [];
  #step = 0;
  /**
   * Open elements that are unknown: their keys, '' for those that only contain others, and whether they had content.
   */
  readonly #keys: string[] = [];
  readonly #holds: boolean[] = [];
  readonly #namespaces = new Namespaces();
  /** Meaning of each tag name so far, so that prefixes are removed once per name. */
  readonly #leaves = new Map<string, Leaf | null>();

  constructor(sink: GpxSink, source?: string) {
    this.#sink = sink;
    this.#parser = new XmlParser(
      source,
      (tag) => this.#open(tag),
      (tag) => this.#close(tag),
      (text) => {
        if (!this.#capturing) return;
        // Nearly always there is one piece; joining it with nothing would cost a string.
        this.#text = this.#text === '' ? text : this.#text + text;
      },
    );
  }

  /** @throws {InputError} for text that is not well-formed or not GPX, or has an impossible position. */
  write(text: string): void {
    this.#parser.write(text);
  }

  /** @throws {InputError} of kind `cut-short` when the file is truncated. */
  end(): void {
    try {
      this.#parser.end();
    } catch (error) {
      // Truncated: the complete part of the track or route is delivered, without the open point.
      this.#endOwner();
      throw error;
    }
  }

  #open(tag: SaxesTagPlain): void {
    const depth = ++this.#depth;
    if (this.#point !== undefined) {
      const leaf = this.#nextLeaf(tag.name);
      this.#text = '';
      if (this.#keys.length > 0) this.#holds[this.#keys.length - 1] = true;
      if (leaf === undefined || (depth > this.#pointDepth + 1 && DIRECT.has(leaf))) this.#openUnknown(tag);
      else if (leaf === HOLDER && this.#keys.length > 0) this.#openUnknown(tag);
      else if (leaf === HOLDER) this.#namespaces.take(tag, this.#depth);
      else {
        this.#leaf = leaf;
        this.#capturing = true;
      }
      return;
    }
    if (this.#keys.length > 0) {
      this.#holds[this.#keys.length - 1] = true;
      this.#openUnknown(tag);
      return;
    }
    const name = localName(tag.name);
    // In a point, only unknown elements need namespaces: a point has two attributes, and there are many points.
    if (name !== 'trkpt') {
      this.#parser.checkDepth(depth);
      this.#namespaces.take(tag, this.#depth);
    }
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
        // Only of the track, route or file itself, not of an element in its extensions.
        this.#capturing = depth === this.#ownerDepth + 1 || (depth <= 3 && this.#owner === 'file');
        this.#text = '';
        break;
      default:
        if (this.#owner !== 'file' && depth === this.#ownerDepth + 1) this.#openUnknown(tag);
    }
  }

  /** An unused element of the standard, or one of another writer: it is kept as text. */
  #openUnknown(tag: SaxesTagPlain): void {
    this.#parser.checkDepth(this.#depth);
    this.#namespaces.take(tag, this.#depth);
    const key = this.#namespaces.keyOf(tag.name);
    this.#keys.push(key);
    this.#holds.push(false);
    this.#capturing = true;
    this.#text = '';
    // The only element of the standard with data in an attribute.
    const address = tag.attributes['href'];
    if (key === LINK && address !== undefined) this.#keep(address);
  }

  #closeUnknown(): void {
    const text = this.#text;
    this.#text = '';
    const holds = this.#holds.pop();
    if (holds === false && /[^ \t\r\n]/.test(text)) this.#keep(text);
    this.#keys.pop();
    this.#capturing = this.#keys.length > 0;
  }

  /** Stores a text under the path of its elements. */
  #keep(text: string): void {
    let path = '';
    for (const key of this.#keys) if (key !== '') path += path === '' ? key : `/${key}`;
    if (path === '') return;
    const point = this.#point;
    if (point !== undefined) (point.extras ??= {})[path] = text;
    else if (path === VEILED) this.#sink.label(this.#owner, 'veiled', text);
    else if (this.#owner !== 'file') this.#sink.extra(this.#owner, path, text);
  }

  #close(tag: SaxesTagPlain): void {
    this.#closed(tag);
    if (this.#namespaces.deepest === this.#depth) this.#namespaces.leave(this.#depth);
    this.#depth--;
  }

  #closed(tag: SaxesTagPlain): void {
    const depth = this.#depth;
    const point = this.#point;
    if (point !== undefined) {
      if (this.#leaf !== undefined) {
        this.#leaf(point, this.#text);
        this.#leaf = undefined;
        this.#capturing = false;
      } else if (this.#keys.length > 0) this.#closeUnknown();
      if (depth !== this.#pointDepth) return;
      this.#point = undefined;
      const name = localName(tag.name);
      if (name === 'trkpt') this.#sink.trackPoint(point);
      else if (name === 'rtept') this.#sink.routePoint(point);
      else this.#sink.waypoint(point);
      return;
    }
    if (this.#keys.length > 0) {
      this.#closeUnknown();
      return;
    }
    if (this.#capturing) {
      this.#capturing = false;
      const name = localName(tag.name);
      this.#sink.label(this.#owner, name === 'desc' ? 'description' : 'name', this.#text);
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

  /**
   * The element of a tag, by comparison with the one at this place in the point before, which is faster than a search.
   */
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
    // A file with endless names must not fill the memory.
    if (this.#leaves.size < 1000) this.#leaves.set(tagName, leaf ?? null);
    return leaf;
  }

  #pointOf(tag: SaxesTagPlain): GpxPoint {
    const lat = decimalOf(tag.attributes['lat']);
    const lon = decimalOf(tag.attributes['lon']);
    if (!(Math.abs(lat) <= 90 && Math.abs(lon) <= 180)) {
      const formatted = (text: string | undefined, value: number) => (Number.isNaN(value) ? text : value);
      const problem = positionProblem(
        formatted(tag.attributes['lat'], lat),
        formatted(tag.attributes['lon'], lon),
      );
      throw this.#parser.error('impossible-position', problem ?? 'impossible position');
    }
    this.#step = 0;
    const point = this.#only;
    point.lat = lat;
    point.lon = lon;
    point.line = this.#parser.line;
    point.time = point.altitude = point.accuracy = point.altitudeAccuracy = point.course = point.speed = NaN;
    point.altitudeDatum = point.origin = point.marks = point.name = point.description = undefined;
    point.extras = undefined;
    return point;
  }
}

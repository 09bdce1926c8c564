import type { Fix } from '../../fix/fix.js';
import type { Line, LinePoint, Waypoint } from '../../trail/line.js';
import type { Trail } from '../../trail/trail.js';
import { FIX_COLUMNS, columnValue, type FixColumn } from '../fix-columns.js';
import type { Output } from '../output.js';
import { asLineString, pointExtrasOf } from '../point-extras.js';
import { timeText } from '../time.js';
import type { TrackContent } from '../track-document.js';
import type { PiecePlace } from '../track-sink.js';
import { textOf, type TrackWriter } from '../track-writer.js';

/**
 * Writes trails, lines, routes and waypoints as the text of a GeoJSON FeatureCollection, one feature per line of text.
 */
export function writeGeoJson(content: TrackContent): string {
  return textOf((output) => new GeoJsonWriter(output), content);
}

/**
 * Converts a trail to a GeoJSON feature: a MultiLineString, one line per segment, with `properties.columns` of lists
 * parallel to its coordinates. `time` is RFC 3339; numbers are in SI units; null stands for an unknown value. An
 * altitude above the ellipsoid is the third number of the coordinates; another altitude is a column.
 */
export function trailToGeoJson(trail: Trail): object {
  const { features } = JSON.parse(writeGeoJson({ trails: [trail] })) as { features: [object] };
  return features[0];
}

/** Writes a list, by the value of a fix, and its value when it is written twice. */
type ListOf = (toValue: (fix: Fix, index: number) => unknown, again: (fix: Fix) => unknown) => string;

/** Writes GeoJSON. The columns of a trail are kept aside until its coordinates are complete. */
export class GeoJsonWriter implements TrackWriter {
  readonly leftOut: readonly string[] = [];
  readonly #output: Output;
  #name: string | undefined;
  #begun = false;
  #any = false;
  /** Columns with a value in any fix of the open trail. */
  readonly #used = new Set<FixColumn>();
  /** Keys of its additional data. */
  readonly #keys: string[] = [];
  #keysBefore = 0;
  /** Number of positions in each segment of the open trail. */
  #lengths: number[] = [];
  /** The fix of an open segment with a single fix. */
  #single: Fix | undefined;

  constructor(output: Output) {
    this.#output = output;
  }

  title(name: string): void {
    this.#name ??= name;
  }

  waypoint({ name, description, time, extras, ...point }: Waypoint): void {
    this.#feature({
      type: 'Feature',
      geometry: { type: 'Point', coordinates: coordinatesOfPoint(point) },
      properties: {
        ...(name !== undefined && { name }),
        ...(description !== undefined && { description }),
        ...(time !== undefined && { time: timeText(time) }),
        ...extras,
      },
    });
  }

  line(line: Line): void {
    this.#line(line, {});
  }

  route(route: Line): void {
    this.#line(route, { kind: 'route' });
  }

  trail(piece: Trail, place: PiecePlace): void {
    const output = this.#output;
    if (place.first) {
      this.#next();
      output.write('{"type":"Feature","geometry":{"type":"MultiLineString","coordinates":');
    }
    const list = this.#listOf(piece, place);
    output.write(list(coordinatesOfFix, coordinatesOfFix));
    output.aside('time', list(timeOf, timeOf));
    for (const column of FIX_COLUMNS) {
      const values = list((fix) => {
        const value = valueBeside(fix, column);
        if (value !== undefined) this.#used.add(column);
        return value;
      }, nothing);
      output.aside(column, values);
    }
    this.#extras(piece, place, list);
    this.#measure(piece, place);
    if (place.last) this.#endTrail(piece);
  }

  /** Additional data of the fixes of a piece. A key that appears only now has no values in earlier pieces. */
  #extras(piece: Trail, place: PiecePlace, list: ListOf): void {
    for (const key of piece.extraKeys) if (!this.#keys.includes(key)) this.#keys.push(key);
    this.#keys.forEach((key, k) => {
      if (k >= this.#keysBefore && !place.first) this.#output.aside(`extra ${k}`, this.#nothingBefore);
      this.#output.aside(
        `extra ${k}`,
        list((_, i) => piece.extra(i, key), nothing),
      );
    });
    this.#keysBefore = this.#keys.length;
  }

  /** A list of empty values, as long as the trail so far. */
  get #nothingBefore(): string {
    const runs = this.#lengths.map((length) => Array.from({ length }, () => 'null').join(','));
    return `[[${runs.join('],[')}`;
  }

  /**
   * Writes lists of lists, one per segment, from the fixes of a piece. A line has at least two positions, so a segment
   * with a single fix has it twice, the second time with a time only.
   */
  #listOf(piece: Trail, { first, last, joined }: PiecePlace): ListOf {
    const segments = piece.segments.map(({ start, end }) =>
      Array.from({ length: end - start }, (_, i) => ({ fix: piece.at(start + i) as Fix, index: start + i })),
    );
    if (segments.length === 0) return () => '[]';
    const closed = joined ? undefined : this.#single;
    const singles = segments.map((run, s) =>
      run.length === 1 && !(s === 0 && joined) ? run[0]?.fix : undefined,
    );
    this.#single = last ? undefined : singles.at(-1);
    if (!last) singles[singles.length - 1] = undefined;
    return (toValue, again) => {
      const padding = (single: Fix | undefined) =>
        single === undefined ? '' : `,${JSON.stringify(again(single))}`;
      const runs = segments.map(
        (run, s) =>
          run.map(({ fix, index }) => JSON.stringify(toValue(fix, index) ?? null)).join(',') +
          padding(singles[s]),
      );
      const start = first ? '[[' : joined ? ',' : `${padding(closed)}],[`;
      return start + runs.join('],[') + (last ? ']]' : '');
    };
  }

  /** Records the lengths of the lists. */
  #measure(piece: Trail, { first, joined }: PiecePlace): void {
    if (first) this.#lengths = [];
    piece.segments.forEach(({ start, end }, s) => {
      const last = this.#lengths.length - 1;
      if (s === 0 && joined) this.#lengths[last] = (this.#lengths[last] ?? 0) + end - start;
      else {
        // The segment before is complete, and has two positions at least.
        if (this.#lengths[last] === 1) this.#lengths[last] = 2;
        this.#lengths.push(end - start);
      }
    });
  }

  note(): void {
    // What was passed over is told to the user, not written.
  }

  end(): void {
    this.#begin();
    this.#output.write('\n]}\n');
  }

  #endTrail({ name, description, veiled, extras }: Trail): void {
    const output = this.#output;
    const labels = JSON.stringify({ name, description, veiled, ...extras }).slice(1, -1);
    output.write(`},"properties":{${labels}${labels === '' ? '' : ','}"columns":{"time":`);
    output.recall('time');
    for (const column of FIX_COLUMNS) {
      if (this.#used.has(column)) {
        output.write(`,"${column}":`);
        output.recall(column);
      } else output.drop(column);
    }
    this.#keys.forEach((key, k) => {
      output.write(`,${JSON.stringify(key)}:`);
      output.recall(`extra ${k}`);
    });
    output.write('}}}');
    this.#used.clear();
    this.#keys.length = 0;
    this.#keysBefore = 0;
  }

  #line({ name, description, extras, parts }: Line, kind: object): void {
    const coordinates = parts.map((part) => asLineString(part).map(coordinatesOfPoint));
    const points = pointExtrasOf(parts);
    this.#feature({
      type: 'Feature',
      geometry: { type: 'MultiLineString', coordinates },
      properties: {
        ...(name !== undefined && { name }),
        ...(description !== undefined && { description }),
        ...kind,
        ...extras,
        ...(points !== undefined && { points }),
      },
    });
  }

  #feature(feature: object): void {
    this.#next();
    this.#output.write(JSON.stringify(feature));
  }

  #next(): void {
    this.#begin();
    if (this.#any) this.#output.write(',\n');
    this.#any = true;
  }

  #begin(): void {
    if (this.#begun) return;
    this.#begun = true;
    const name = this.#name === undefined ? '' : `"name":${JSON.stringify(this.#name)},`;
    this.#output.write(`{"type":"FeatureCollection",${name}"features":[\n`);
  }
}

/** Value of a fix in a column: an altitude above the ellipsoid is in the coordinates instead. */
function valueBeside(fix: Fix, column: FixColumn): number | string | undefined {
  const inCoordinates = fix.altitudeDatum === 'ellipsoid' && fix.altitude !== undefined;
  return inCoordinates && (column === 'altitude' || column === 'altitudeDatum')
    ? undefined
    : columnValue(fix, column);
}

function timeOf({ time }: Fix): string {
  return timeText(time);
}

function nothing(): null {
  return null;
}

function coordinatesOfFix({ lon, lat, altitude, altitudeDatum }: Fix): number[] {
  return altitude !== undefined && altitudeDatum === 'ellipsoid' ? [lon, lat, altitude] : [lon, lat];
}

function coordinatesOfPoint({ lon, lat, altitude }: LinePoint): number[] {
  return altitude === undefined ? [lon, lat] : [lon, lat, altitude];
}

import {
  fencesFrom,
  InputError,
  timetable,
  type Fence,
  type Line,
  type TrackDocument,
  type Trail,
  type Waypoint,
} from 'aurelian-drift';
import { lineOf } from 'aurelian-drift/internal';
import { groundFrom, type Ground } from 'aurelian-drift/map';
import { placesFrom, type GeoJsonPlaces } from 'aurelian-drift/places';
import { fromJson, locator } from '../files/json-text.js';
import { readText, sourceName } from '../files/text-file.js';
import { readTrackFile } from '../files/track-file.js';
import { orDemo } from './demo.js';
import { Misuse } from './misuse.js';
import { NoteReporter } from './notes.js';

/** Maximum number of refused features that are listed. */
const REPORTED = 20;

/**
 * Reads a file of tracks of any format. Content that is left out is reported on standard error.
 *
 * @throws {InputError} for the first such content with `strict`.
 */
export async function readTracks(path: string, { strict = false } = {}): Promise<TrackDocument> {
  const read = await readTrackFile(path, { strict });
  const notes = new NoteReporter(sourceName(path));
  for (const note of read.notes) notes.report(note);
  notes.end();
  return read;
}

/** The trails of a file; an error that states the other content when there is none. */
export async function readTrails(path: string, { strict = false } = {}): Promise<readonly Trail[]> {
  const read = await readTracks(path, { strict });
  if (read.trails.length > 0) return read.trails;
  throw noTrail(path, read);
}

/** Error for a file without trails, with its other content. */
export function noTrail(
  path: string,
  {
    lines,
    routes,
    waypoints,
  }: {
    readonly lines: ArrayLike<unknown>;
    readonly routes: ArrayLike<unknown>;
    readonly waypoints: ArrayLike<unknown>;
  },
): InputError {
  const found =
    lines.length + routes.length > 0
      ? 'its points have no times'
      : waypoints.length > 0
        ? 'it has waypoints only'
        : 'it is empty';
  return new InputError('nothing-inside', `there is no trail in it: ${found}`, { source: sourceName(path) });
}

/** The fences of a file, or of the island for `demo`. */
export async function readFences(
  path: string,
  demo: 'sections' | 'banks' = 'sections',
): Promise<readonly Fence[]> {
  const { text, source } = await readText(orDemo(path, demo));
  return fromJson(text, source, (document) =>
    fencesFrom(document, {
      timetable,
      note: (reported) => void process.stderr.write(`aurelian: ${source}: ${reported}\n`),
    }),
  );
}

export async function readGround(path: string): Promise<Ground> {
  const { text, source } = await readText(orDemo(path, 'vanesk'));
  return fromJson(text, source, groundFrom);
}

/** Places of a file, or of the island for `demo`. Features that are left out are reported on standard error. */
export async function readPlaces(path: string): Promise<GeoJsonPlaces> {
  const { text, source } = await readText(orDemo(path, 'places'));
  const read = fromJson(text, source, placesFrom);
  const locate = locator(text, source);
  for (const error of read.refused.slice(0, REPORTED))
    process.stderr.write(`aurelian: ${locate(error).message}\n`);
  const more = read.refused.length - REPORTED;
  if (more > 0) process.stderr.write(`aurelian: ${source}: ${more} more features were left out\n`);
  if (read.places.length === 0) throw new InputError('nothing-inside', 'there is no place in it', { source });
  return read;
}

/** Ids of the fences that a file marks as closed. */
export async function readClosedFences(path: string): Promise<ReadonlySet<string>> {
  const { text, source } = await readText(orDemo(path, 'sections'));
  const { features } = fromJson(
    text,
    source,
    (document) => document as { features?: { id?: unknown; properties?: { closed?: unknown } }[] },
  );
  return new Set(
    (features ?? []).filter((each) => each.properties?.closed === true).map((each) => String(each.id)),
  );
}

/** `FILE`, `FILE:NAME` for one of several lines, or `demo` and `demo:NAME` for the island's rounds. */
export async function readRoute(argument: string): Promise<Line> {
  return (await readRouteFile(argument)).line;
}

/** As `readRoute`, with the waypoints of the file and its path. */
export async function readRouteFile(
  argument: string,
): Promise<{ readonly line: Line; readonly waypoints: readonly Waypoint[]; readonly path: string }> {
  const [path, name] = splitName(argument);
  const { lines, routes, trails, waypoints } = await readTracks(orDemo(path, 'rounds'));
  return { line: chosen([...routes, ...lines, ...trails.map(lineOf)], path, name), waypoints, path };
}

/** The line with a name; without one the only line, or the first of the island. */
function chosen(all: readonly Line[], path: string, name: string | undefined): Line {
  if (all.length === 0)
    throw new InputError('nothing-inside', 'there is no line in it to go along', { source: path });
  if (name === undefined) {
    if (all.length === 1 || path === 'demo') return all[0] as Line;
    throw new Misuse(
      `${path} has ${all.length} lines; choose one: ${all.map((line) => `${path}:${slug(line.name)}`).join(', ')}`,
    );
  }
  const found = all.find((line) => slug(line.name) === slug(name));
  if (found === undefined)
    throw new Misuse(
      `${path} has no line "${name}"; it has ${all.map((line) => slug(line.name)).join(', ')}`,
    );
  return found;
}

function splitName(argument: string): [string, string | undefined] {
  const match = /^(demo|.+\.(?:gpx|geojson|json|kml|csv|nmea)):(.+)$/i.exec(argument);
  return match === null ? [argument, undefined] : [match[1] as string, match[2]];
}

function slug(name: string | undefined): string {
  return (name ?? 'unnamed').toLowerCase().replaceAll(/[^\p{L}\p{N}]+/gu, '-');
}

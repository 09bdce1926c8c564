import { readFile } from 'node:fs/promises';
import { text as textOf } from 'node:stream/consumers';
import { findNodeAtLocation, parse, parseTree, printParseErrorCode, type ParseError } from 'jsonc-parser';
import { InputError } from '../core/check/input-error.js';
import type { Fence } from '../core/fence/fence.js';
import { fencesFrom } from '../core/formats/geojson-fences.js';
import { geoJsonTrailsFrom } from '../core/formats/geojson-trail.js';
import { readGpx } from '../core/formats/gpx.js';
import { groundFrom, type Ground } from '../core/scene/layers/ground.js';
import type { Line } from '../core/trail/line.js';
import type { Trail } from '../core/trail/trail.js';
import { orDemo } from './demo.js';
import { Misuse } from './misuse.js';

/** Trails and lines of a file, of whatever format. */
export interface TrackFile {
  readonly trails: readonly Trail[];
  readonly lines: readonly Line[];
  readonly waypoints: number;
}

/** Text of a file, or of standard input for `-`, with the name it goes by in errors. */
async function readText(path: string): Promise<{ text: string; source: string }> {
  const raw = path === '-' ? await textOf(process.stdin) : await readFile(path, 'utf8');
  const source = path === '-' ? 'standard input' : path;
  const text = raw.startsWith('\uFEFF') ? raw.slice(1) : raw;
  if (text.trim() === '') throw new InputError('cut-short', 'the file is empty', { source, line: 1 });
  return { text, source };
}

/** Reads GPX or GeoJSON, told apart by the first letter. Things left out are told on standard error. */
export async function readTracks(path: string): Promise<TrackFile> {
  const { text, source } = await readText(path);
  const first = text.trimStart()[0];
  if (first === '<') {
    const { trails, lines, routes, waypoints, notes } = readGpx(text, source);
    for (const note of notes) process.stderr.write(`aurelian: ${source}:${note.line}: ${note.text}\n`);
    return { trails, lines: [...lines, ...routes], waypoints: waypoints.length };
  }
  if (first === '{') {
    const { trails, lines, waypoints } = fromJson(text, source, geoJsonTrailsFrom);
    return { trails, lines, waypoints: waypoints.length };
  }
  throw new InputError('not-this-format', 'this is neither GPX nor GeoJSON', { source, line: 1 });
}

/** The trails of a file; an error that says what is there instead when there is none. */
export async function readTrails(path: string): Promise<readonly Trail[]> {
  const { trails, lines, waypoints } = await readTracks(path);
  if (trails.length > 0) return trails;
  const found =
    lines.length > 0 ? 'its points have no times' : waypoints > 0 ? 'it has waypoints only' : 'it is empty';
  throw new InputError('nothing-inside', `there is no trail in it: ${found}`, {
    source: path === '-' ? 'standard input' : path,
  });
}

export async function readFences(path: string): Promise<readonly Fence[]> {
  const { text, source } = await readText(orDemo(path, 'sections'));
  return fromJson(text, source, fencesFrom);
}

export async function readGround(path: string): Promise<Ground> {
  const { text, source } = await readText(orDemo(path, 'vanesk'));
  return fromJson(text, source, groundFrom);
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
  const [path, name] = splitName(argument);
  const { lines, trails } = await readTracks(orDemo(path, 'rounds'));
  const all: Line[] = [...lines, ...trails.map(lineOf)];
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
  const match = /^(demo|.+\.(?:gpx|geojson|json)):(.+)$/i.exec(argument);
  return match === null ? [argument, undefined] : [match[1] as string, match[2]];
}

function slug(name: string | undefined): string {
  return (name ?? 'unnamed').toLowerCase().replaceAll(/[^\p{L}\p{N}]+/gu, '-');
}

function lineOf(trail: Trail): Line {
  return {
    ...(trail.name !== undefined && { name: trail.name }),
    parts: trail.segments.map((segment) =>
      Array.from(trail.fixesOf(segment), ({ lat, lon, altitude }) => ({
        lat,
        lon,
        ...(altitude !== undefined && { altitude }),
      })),
    ),
  };
}

/** Parses JSON and reads it; errors get the line that their path leads to. */
function fromJson<T>(text: string, source: string, read: (document: unknown) => T): T {
  const errors: ParseError[] = [];
  const document: unknown = parse(text, errors, { allowTrailingComma: false, disallowComments: true });
  const first = errors[0];
  if (first !== undefined) {
    const cutShort = text.slice(first.offset).trim() === '';
    const reason = cutShort
      ? 'the file ends in the middle; it was cut short'
      : `this is not JSON: ${printParseErrorCode(first.error)
          .replaceAll(/(?!^)([A-Z])/g, ' $1')
          .toLowerCase()}`;
    throw new InputError(cutShort ? 'cut-short' : 'not-this-format', reason, {
      source,
      line: lineAt(text, first.offset),
    });
  }
  try {
    return read(document);
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    const { path } = error.place;
    const tree = path === undefined ? undefined : parseTree(text);
    const node = tree === undefined ? undefined : nearestNode(tree, path ?? []);
    throw error.at({ source, ...(node !== undefined && { line: lineAt(text, node.offset) }) });
  }
}

/** The value at a path, or of the longest beginning of it that is there. */
function nearestNode(tree: NonNullable<ReturnType<typeof parseTree>>, path: readonly (string | number)[]) {
  for (let length = path.length; length > 0; length--) {
    const node = findNodeAtLocation(tree, path.slice(0, length));
    if (node !== undefined) return node;
  }
  return tree;
}

function lineAt(text: string, offset: number): number {
  return text.slice(0, offset).split('\n').length;
}

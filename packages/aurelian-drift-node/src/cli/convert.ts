import { Command } from 'commander';
import { stat } from 'node:fs/promises';
import {
  smoothTrail,
  thinTrail,
  Veil,
  type TrackContent,
  type TrackDocument,
  type TrackSink,
  type Trail,
} from 'aurelian-drift';
import { streamTrackFile } from '../files/track-file.js';
import { readFences, readTracks } from './files.js';
import { sourceName } from '../files/text-file.js';
import { printJson } from './json.js';
import { NoteReporter } from './notes.js';
import { lengthArgument } from './quantities.js';
import { counted } from './counted.js';
import { checkEnding, writeTracks, writeTracksAs } from './track-output.js';

interface Options {
  readonly smooth?: boolean;
  readonly thin?: number;
  readonly timeAware?: boolean;
  readonly veil?: string;
  readonly strict?: boolean;
  readonly force?: boolean;
  readonly json?: boolean;
}

interface Counts {
  trails: number;
  fixes: number;
  lines: number;
  waypoints: number;
}

/** Maximum size in bytes of a file that is read as a whole. */
const WHOLE = 32 << 20;
/** Fixes in memory at a time, for a larger one. */
const PIECE = 4096;

export function convertCommand(): Command {
  return new Command('convert')
    .description('convert files; the input format is detected, the output format is that of the extension')
    .argument('<in>', 'GPX, GeoJSON, KML, CSV or NMEA 0183; - for standard input')
    .argument('<out>', 'file to write, .gpx, .geojson, .kml, .csv or .nmea')
    .option('--smooth', 'replace the fixes by the smoothed path')
    .option('--thin <length>', 'leave out fixes within this distance of the line', lengthArgument)
    .option('--time-aware', 'with --thin: also at the times of the fixes')
    .option('--veil <file>', 'GeoJSON of areas that are cut out, with the way to them')
    .option('--strict', 'refuse content instead of leaving it out with a note')
    .option('--force', 'overwrite an existing file')
    .option('--json', 'print the result as JSON')
    .action(async (from: string, to: string, options: Options) => {
      checkEnding(to);
      const whole =
        options.smooth === true ||
        options.thin !== undefined ||
        options.veil !== undefined ||
        (from !== '-' && (await stat(from)).size <= WHOLE);
      const { read, written } = whole ? await atOnce(from, to, options) : await inPieces(from, to, options);
      const thinned = read.fixes > written.fixes;
      if (options.json === true) {
        printJson({ out: to, ...written, ...(thinned && { leftOut: read.fixes - written.fixes }) });
        return;
      }
      const parts = [
        `${counted(written.trails, 'trail')} with ${written.fixes}${thinned ? ` of ${read.fixes}` : ''} fixes`,
        ...(written.lines > 0 ? [counted(written.lines, 'line')] : []),
        ...(written.waypoints > 0 ? [counted(written.waypoints, 'waypoint')] : []),
      ];
      process.stdout.write(`${to}: ${parts.join(', ')}\n`);
    });
}

async function atOnce(
  from: string,
  to: string,
  options: Options,
): Promise<{ read: Counts; written: Counts }> {
  const { smooth = false, thin, timeAware = false, veil, strict = false } = options;
  const read = await readTracks(from, { strict });
  const path = smooth ? { ...read, trails: read.trails.map(smoothTrail) } : read;
  const seen = veil === undefined ? path : await throughVeil(path, veil, to);
  const written =
    thin === undefined
      ? seen
      : { ...seen, trails: (seen.trails ?? []).map((trail) => thinTrail(trail, thin, { timeAware })) };
  await writeTracks(to, written, options);
  return { read: countsOf(read), written: countsOf(written) };
}

async function inPieces(
  from: string,
  to: string,
  options: Options,
): Promise<{ read: Counts; written: Counts }> {
  const { strict = false } = options;
  const counts: Counts = { trails: 0, fixes: 0, lines: 0, waypoints: 0 };
  const notes = new NoteReporter(sourceName(from));
  await writeTracksAs(to, options, (writer) => {
    const sink: TrackSink = {
      trail(piece: Trail, place) {
        if (place.first) counts.trails++;
        counts.fixes += piece.length;
        writer.trail(piece, place);
      },
      line(line) {
        counts.lines++;
        writer.line(line);
      },
      route(route) {
        counts.lines++;
        writer.route(route);
      },
      waypoint(waypoint) {
        counts.waypoints++;
        writer.waypoint(waypoint);
      },
      title: (name) => writer.title(name),
      note: (note) => notes.report(note),
    };
    return streamTrackFile(from, sink, { strict, pieceSize: PIECE });
  });
  notes.end();
  return { read: counts, written: counts };
}

/** The content outside the areas of a file; the number of cuts is reported. */
async function throughVeil(read: TrackDocument, file: string, to: string): Promise<TrackContent> {
  const { content, cuts, fixes, points, waypoints } = new Veil(await readFences(file)).tracks(read);
  const parts = [
    ...(fixes > 0 ? [`${counted(fixes, 'fix', 'fixes')} in ${counted(cuts, 'cut')}`] : []),
    ...(points > 0 ? [counted(points, 'point')] : []),
    ...(waypoints > 0 ? [counted(waypoints, 'waypoint')] : []),
  ];
  process.stderr.write(
    `aurelian: ${to}: ${parts.length === 0 ? 'nothing was in the areas of the veil' : `veiled: ${parts.join(', ')}`}\n`,
  );
  return content;
}

function countsOf({ trails = [], lines = [], routes = [], waypoints = [] }: TrackContent): Counts {
  return {
    trails: trails.length,
    fixes: trails.reduce((sum, trail) => sum + trail.length, 0),
    lines: lines.length + routes.length,
    waypoints: waypoints.length,
  };
}

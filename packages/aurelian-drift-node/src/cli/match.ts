import { Command, Option } from 'commander';
import { durationText, lengthText } from 'aurelian-drift';
import { timeText } from 'aurelian-drift/internal';
import {
  TRAVEL_KINDS,
  matchTrail,
  type MatchOptions,
  type TrailMatch,
  type TravelKind,
} from 'aurelian-drift/ways';
import { readTrails } from './files.js';
import { printJson } from './json.js';
import { Misuse } from './misuse.js';
import { readNetwork } from './networks.js';
import { clockText, printable, table } from './tables.js';
import { checkEnding, writeTracks } from './track-output.js';
import { counted } from './counted.js';

interface Options {
  readonly network: string;
  readonly by?: TravelKind;
  readonly out?: string;
  readonly force?: boolean;
  readonly json?: boolean;
}

export function matchCommand(): Command {
  return new Command('match')
    .description('find the lanes that trails were on, with the length on them and off the network')
    .argument('<files...>', 'GPX, GeoJSON, KML, CSV or NMEA 0183; - for standard input')
    .option('--network <file>', 'GeoJSON of lanes, or demo for the island', 'demo')
    .addOption(
      new Option('--by <kind>', 'only lanes that are open to a kind of travel, in its directions').choices(
        TRAVEL_KINDS,
      ),
    )
    .option('-o, --out <file>', 'write the path over the lanes, as .gpx, .geojson or .kml')
    .option('--force', 'overwrite an existing file')
    .option('--json', 'print one JSON value per trail')
    .action(async (files: string[], { network: path, by, out, force = false, json = false }: Options) => {
      if (out === undefined && force) throw new Misuse('--force goes with -o');
      if (out !== undefined) checkEnding(out);
      const network = await readNetwork(path);
      const options: MatchOptions = by === undefined ? {} : { by };
      const matched: { readonly name: string; readonly match: TrailMatch }[] = [];
      for (const file of files)
        for (const trail of await readTrails(file))
          matched.push({ name: trail.name ?? file, match: matchTrail(trail, network, options) });
      for (const { name, match } of matched) {
        if (json) printJson(jsonOf(name, match));
        else if (out === undefined) print(name, match);
      }
      if (out === undefined) return;
      const lines = matched.map(({ name, match: { parts } }) => ({
        name,
        parts: parts.map(({ line }) => line),
      }));
      await writeTracks(out, { lines }, { force });
      process.stderr.write(`${out}: ${counted(lines.length, 'path')}\n`);
    });
}

function print(name: string, { parts, on, off }: TrailMatch): void {
  const rows = parts.flatMap((part) =>
    part.on
      ? part.lanes.map((lane) => [
          clockText(lane.start),
          lane.name ?? `(${lane.kind ?? 'no name'})`,
          lengthText(lane.metres),
        ])
      : [[clockText(part.start), 'off the network', lengthText(part.metres)]],
  );
  process.stdout.write(`${printable(name)}\n`);
  process.stdout.write(
    rows.length === 0
      ? 'no part of it is near a lane for long enough\n'
      : table(rows, ['UTC', 'lane', 'for'], [2]),
  );
  const [first, last] = [parts[0], parts.at(-1)];
  const seconds = first === undefined || last === undefined ? 0 : (last.end - first.start) / 1000;
  process.stdout.write(
    `${lengthText(on)} on lanes, ${lengthText(off)} off them, in ${durationText(seconds)}\n\n`,
  );
}

function jsonOf(name: string, { parts, on, off }: TrailMatch): object {
  const metres = (value: number) => Math.round(value * 10) / 10;
  return {
    name,
    on: metres(on),
    off: metres(off),
    parts: parts.map((part) => ({
      on: part.on,
      start: timeText(part.start),
      end: timeText(part.end),
      metres: metres(part.metres),
      lanes: part.lanes.map((lane) => ({
        ...lane,
        start: timeText(lane.start),
        metres: metres(lane.metres),
      })),
    })),
  };
}

import { Command } from 'commander';
import { durationText, staysOf, type Stay } from 'aurelian-drift';
import type { Gazetteer } from 'aurelian-drift/places';
import { readFences, readTrails } from './files.js';
import { readGazetteer } from './gazetteers.js';
import { printJson } from './json.js';
import { durationArgument } from './quantities.js';
import { PLAIN_WORDS, table } from './tables.js';

interface Options {
  readonly fences?: string;
  readonly places?: string;
  readonly least: number;
  readonly json?: boolean;
}

const HEAD = ['day', 'arrival', 'departure', 'stay', 'place'];

export function dayCommand(): Command {
  return new Command('day')
    .description('tell trails as stays: arrival, departure and name of each')
    .argument('<files...>', 'GPX, GeoJSON, KML, CSV or NMEA 0183; - for standard input')
    .option('--fences <file>', 'GeoJSON of named areas, or demo for the sections of the island')
    .option('--places <file>', 'GeoJSON of a gazetteer that names rests elsewhere, or demo for the island')
    .option('--least <duration>', 'leave out shorter stays', durationArgument, 60)
    .option('--json', 'print one JSON value per stay')
    .action(async (files: string[], { fences, places, least, json }: Options) => {
      const areas = fences === undefined ? [] : await readFences(fences);
      const gazetteer = places === undefined ? undefined : await readGazetteer(places);
      const stays: Stay[] = [];
      for (const file of files)
        for (const trail of await readTrails(file))
          stays.push(...staysOf(trail, { fences: areas, least, nameOf: (at) => nameOf(gazetteer, at) }));
      stays.sort((a, b) => a.from - b.from);
      if (json === true) for (const stay of stays) printJson(stay);
      else if (stays.length === 0) process.stdout.write('no stays\n');
      else process.stdout.write(table(stays.map(row), HEAD, [3]));
    });
}

function nameOf(gazetteer: Gazetteer | undefined, at: { lat: number; lon: number }): string | undefined {
  return gazetteer?.at(at)[0]?.text;
}

function row({ name, arrival, departure, from, duration }: Stay): string[] {
  const clock = (time: number | undefined) => (time === undefined ? '–' : PLAIN_WORDS.clock(time));
  return [PLAIN_WORDS.date(from), clock(arrival), clock(departure), durationText(duration), name];
}

import { Command } from 'commander';
import { bearing, courseText, distance, lengthText, lineSummary, type Position } from 'aurelian-drift';
import { noTrail, readTracks } from './files.js';
import { printJson } from './json.js';
import { Misuse } from './misuse.js';
import { positionArgument } from './quantities.js';
import { printable } from './tables.js';

/** A file of tracks, by its name. */
const FILE = /\.(gpx|geojson|json|kml|csv|tsv|txt|nmea)$/i;

export function measureCommand(): Command {
  return new Command('measure')
    .description(
      'print distance and bearing from each LAT,LON to the next, on WGS 84; or the length of each line in a file',
    )
    .argument(
      '<positions...>',
      'two or more, like 44.2,-33.6; or one file',
      (text: string, before: (Position | string)[] | undefined) => [
        ...(before ?? []),
        FILE.test(text) ? text : positionArgument(text),
      ],
    )
    .option('--json', 'print one JSON value, in metres and degrees')
    .action(async (places: (Position | string)[], { json = false }: { json?: boolean }) => {
      const file = places.find((place) => typeof place === 'string');
      if (file === undefined) measurePositions(places as Position[], json);
      else if (places.length === 1) await measureFile(file, json);
      else throw new Misuse('measure needs positions, or one file');
    });
}

function measurePositions(positions: readonly Position[], json: boolean): void {
  if (positions.length < 2) throw new Misuse('measure needs two positions at least');
  const legs = positions.slice(1).map((to, i) => {
    const from = positions[i] as Position;
    const course = bearing(from, to);
    return { distance: distance(from, to), ...(Number.isNaN(course) ? {} : { bearing: course }) };
  });
  if (json) {
    printJson({ legs });
    return;
  }
  for (const leg of legs) {
    const course = leg.bearing === undefined ? 'the same place' : courseText(leg.bearing);
    process.stdout.write(`${lengthText(leg.distance, 1)}  ${course}\n`);
  }
  const whole = legs.reduce((sum, leg) => sum + leg.distance, 0);
  if (legs.length > 1) process.stdout.write(`${lengthText(whole, 1)}  in all\n`);
}

/** Length of each line, and of each trail from fix to fix. */
async function measureFile(file: string, json: boolean): Promise<void> {
  const read = await readTracks(file);
  const parts = read.trails.map((trail) => ({
    name: trail.name,
    parts: trail.segments.map((segment) => [...trail.fixesOf(segment)]),
  }));
  const measured = [...read.lines, ...read.routes, ...parts].map((line) => ({
    name: line.name ?? file,
    distance: lineSummary({ parts: line.parts }).distance,
  }));
  if (measured.length === 0) throw noTrail(file, read);
  if (json) printJson({ lines: measured });
  else
    for (const { name, distance: metres } of measured)
      process.stdout.write(`${lengthText(metres, 1)}  ${printable(name)}\n`);
}

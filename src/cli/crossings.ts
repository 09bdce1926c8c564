import { Command } from 'commander';
import type { Crossing } from '../core/fence/crossing.js';
import type { Fence } from '../core/fence/fence.js';
import { FenceWatch } from '../core/fence/watch.js';
import type { Trail } from '../core/trail/trail.js';
import { readFences, readTrails } from './files.js';
import { crossingJson, printJson } from './json.js';
import { CROSSING_HEAD, crossingRow, table } from './tables.js';

export function crossingsCommand(): Command {
  return new Command('crossings')
    .description('which fences a trail entered and left, and when')
    .argument('<file>', 'GPX or GeoJSON; - for standard input')
    .requiredOption(
      '--fences <file>',
      'GeoJSON with polygons, and points with a radius; demo for the island’s sections',
    )
    .option('--json', 'one JSON value a crossing')
    .action(async (file: string, { fences: fencesFile, json }: { fences: string; json?: boolean }) => {
      const fences = await readFences(fencesFile);
      const crossings = (await readTrails(file)).flatMap((trail) => crossingsOf(trail, fences));
      if (json === true) {
        for (const crossing of crossings) printJson(crossingJson(crossing));
      } else if (crossings.length === 0) {
        process.stdout.write(`no fence of ${fences.length} was crossed\n`);
      } else {
        process.stdout.write(table(crossings.map(crossingRow), CROSSING_HEAD, [3, 4]));
      }
    });
}

/** The crossings of a whole trail, its breaks respected. */
export function crossingsOf(trail: Trail, fences: readonly Fence[]): Crossing[] {
  const watch = new FenceWatch(fences);
  const crossings: Crossing[] = [];
  for (const segment of trail.segments) {
    watch.breakSegment();
    for (const fix of trail.fixesOf(segment)) crossings.push(...watch.advance(fix));
  }
  return crossings;
}

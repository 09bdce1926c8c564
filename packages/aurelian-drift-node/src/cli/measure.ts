import { Command } from 'commander';
import { bearing, courseText, distance, lengthText, type Position } from 'aurelian-drift';
import { printJson } from './json.js';
import { Misuse } from './misuse.js';
import { positionArgument } from './quantities.js';

export function measureCommand(): Command {
  return new Command('measure')
    .description('print distance and bearing from each LAT,LON to the next, on WGS 84')
    .argument(
      '<positions...>',
      'two or more, like 44.2,-33.6',
      (text: string, before: Position[] | undefined) => [...(before ?? []), positionArgument(text)],
    )
    .option('--json', 'print one JSON value, in metres and degrees')
    .action((positions: Position[], { json }: { json?: boolean }) => {
      if (positions.length < 2) throw new Misuse('measure needs two positions at least');
      const legs = positions.slice(1).map((to, i) => {
        const from = positions[i] as Position;
        const course = bearing(from, to);
        return { distance: distance(from, to), ...(Number.isNaN(course) ? {} : { bearing: course }) };
      });
      if (json === true) {
        printJson({ legs });
        return;
      }
      for (const leg of legs) {
        const course = leg.bearing === undefined ? 'the same place' : courseText(leg.bearing);
        process.stdout.write(`${lengthText(leg.distance, 1)}  ${course}\n`);
      }
      if (legs.length > 1)
        process.stdout.write(
          `${lengthText(
            legs.reduce((sum, leg) => sum + leg.distance, 0),
            1,
          )}  in all\n`,
        );
    });
}

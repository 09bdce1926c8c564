import { Command } from 'commander';
import { progressOf } from 'aurelian-drift';
import { readTrails } from './files.js';
import { printJson } from './json.js';
import { checkCorridor, planEventJson, planLine, progressRows, readPlan } from './plans.js';
import { lengthArgument } from './quantities.js';
import { printable, table } from './tables.js';

interface Options {
  readonly plan: string;
  readonly corridor?: number;
  readonly json?: boolean;
}

export function progressCommand(): Command {
  return new Command('progress')
    .description(
      'tell how trails kept to a plan: named points reached and skipped, where it was left, what is done',
    )
    .argument('<files...>', 'GPX, GeoJSON, KML, CSV or NMEA 0183; - for standard input')
    .requiredOption(
      '--plan <file>',
      'file of a route or a track, FILE:NAME for one of several, demo:NAME for a round of the island',
    )
    .option('--corridor <length>', 'half its width, like 30m (default: that of the plan, or 20m)', (text) =>
      checkCorridor(lengthArgument(text)),
    )
    .option('--json', 'print one JSON value per trail')
    .action(async (files: string[], { plan: argument, corridor, json = false }: Options) => {
      const plan = await readPlan(argument, corridor);
      for (const file of files)
        for (const trail of await readTrails(file)) {
          const { progress, events } = progressOf(trail, plan);
          if (json) {
            printJson({
              name: trail.name ?? file,
              events: events.map(planEventJson),
              ...(progress !== undefined && { progress }),
            });
            continue;
          }
          process.stdout.write(`${printable(trail.name ?? file)}\n`);
          for (const event of events) process.stdout.write(`${planLine(event)}\n`);
          process.stdout.write(
            progress === undefined
              ? 'it was never near the plan\n'
              : `${table(progressRows({ plan, progress }))}\n`,
          );
        }
    });
}

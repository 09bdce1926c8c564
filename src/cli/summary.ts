import { Command } from 'commander';
import { readTrails } from './files.js';
import { printJson, summaryJson } from './json.js';
import { summaryRows, table, printable } from './tables.js';

export function summaryCommand(): Command {
  return new Command('summary')
    .description('distance, times, speeds, climb, gaps and bounds of every trail in the files')
    .argument('<files...>', 'GPX, GeoJSON or CSV; - for standard input')
    .option('--json', 'one JSON value a trail')
    .action(async (files: string[], { json }: { json?: boolean }) => {
      for (const file of files) {
        for (const trail of await readTrails(file)) {
          const summary = trail.summary();
          if (json === true) {
            printJson(summaryJson(summary, trail.name));
          } else {
            process.stdout.write(`${printable(trail.name ?? file)}\n${table(summaryRows(summary))}\n`);
          }
        }
      }
    });
}

import { createRequire } from 'node:module';
import { Command } from 'commander';
import { convertCommand } from './convert.js';
import { crossingsCommand } from './crossings.js';
import { findCommand } from './find.js';
import { followCommand } from './follow.js';
import { mapCommand } from './map.js';
import { measureCommand } from './measure.js';
import { nearCommand } from './near.js';
import { placeCommand } from './place.js';
import { preflightCommand } from './preflight.js';
import { reportCommand } from './report.js';
import { serveCommand } from './serve.js';
import { simulateCommand } from './simulate.js';
import { summaryCommand } from './summary.js';
import { tourCommand } from './tour.js';

/** The command line as a whole. Errors are thrown, not exited with. */
export function program(): Command {
  const { version } = createRequire(import.meta.url)('aurelian-drift/package.json') as { version: string };
  const all = new Command('aurelian')
    .description('Positions, trails and fence crossings, from files and pretend devices.')
    .version(version, '--version', 'print the version')
    .helpOption('-h, --help', 'print help')
    .helpCommand('help [command]', 'print help for a command')
    .showHelpAfterError('(aurelian COMMAND --help tells more)')
    .exitOverride();
  for (const command of [
    tourCommand,
    simulateCommand,
    followCommand,
    summaryCommand,
    crossingsCommand,
    convertCommand,
    measureCommand,
    mapCommand,
    reportCommand,
    placeCommand,
    nearCommand,
    findCommand,
    preflightCommand,
    serveCommand,
  ]) {
    all.addCommand(
      command()
        .exitOverride()
        .helpOption('-h, --help', 'print help')
        .showHelpAfterError('(--help tells more)'),
    );
  }
  return all;
}

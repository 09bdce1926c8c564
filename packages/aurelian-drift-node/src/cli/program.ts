import { createRequire } from 'node:module';
import { Command } from 'commander';
import { addCommands } from './subcommands.js';

/** Loader of each command, in the order of the help: a command does not load the modules of another. */
const COMMANDS: Readonly<Record<string, () => Promise<() => Command>>> = {
  tour: async () => (await import('./tour.js')).tourCommand,
  simulate: async () => (await import('./simulate.js')).simulateCommand,
  follow: async () => (await import('./follow.js')).followCommand,
  summary: async () => (await import('./summary.js')).summaryCommand,
  crossings: async () => (await import('./crossings.js')).crossingsCommand,
  day: async () => (await import('./day.js')).dayCommand,
  convert: async () => (await import('./convert.js')).convertCommand,
  measure: async () => (await import('./measure.js')).measureCommand,
  map: async () => (await import('./map.js')).mapCommand,
  report: async () => (await import('./report.js')).reportCommand,
  place: async () => (await import('./place.js')).placeCommand,
  near: async () => (await import('./near.js')).nearCommand,
  find: async () => (await import('./find.js')).findCommand,
  way: async () => (await import('./way.js')).wayCommand,
  match: async () => (await import('./match.js')).matchCommand,
  progress: async () => (await import('./progress.js')).progressCommand,
  party: async () => (await import('./party.js')).partyCommand,
  preflight: async () => (await import('./preflight.js')).preflightCommand,
  serve: async () => (await import('./serve.js')).serveCommand,
};

/**
 * The whole command line; with the command that the first word names only, or with all. Errors are thrown, the process
 * does not exit.
 */
export async function program(first: string | undefined): Promise<Command> {
  const { version } = createRequire(import.meta.url)('aurelian-drift-node/package.json') as {
    version: string;
  };
  const all = new Command('aurelian')
    .description('Positions, trails and fence crossings, from files and pretend devices.')
    .version(version, '--version', 'print the version')
    .helpOption('-h, --help', 'print help')
    .helpCommand('help [command]', 'print help for a command')
    .showHelpAfterError('(see aurelian COMMAND --help)')
    .exitOverride();
  const named = first !== undefined && Object.hasOwn(COMMANDS, first) ? COMMANDS[first] : undefined;
  const loading = named === undefined ? Object.values(COMMANDS) : [named];
  addCommands(all, await Promise.all(loading.map((load) => load())));
  return all;
}

import { Command } from 'commander';
import { InputError } from '../core/check/input-error.js';
import { thinTrail } from '../core/trail/thin.js';
import { readTracks } from './files.js';
import { printJson } from './json.js';
import { lengthArgument } from './quantities.js';
import { counted, formatOfEnding, trackText, writeNew } from './track-output.js';

interface Options {
  readonly thin?: number;
  readonly timeAware?: boolean;
  readonly strict?: boolean;
  readonly force?: boolean;
  readonly json?: boolean;
}

export function convertCommand(): Command {
  return new Command('convert')
    .description('from one format to another, found by content and by the ending')
    .argument('<in>', 'GPX, GeoJSON or CSV; - for standard input')
    .argument('<out>', 'file to write, .gpx, .geojson or .csv')
    .option('--thin <length>', 'leave out fixes that the line passes within so far', lengthArgument)
    .option('--time-aware', 'with --thin: and at their very times')
    .option('--strict', 'refuse what would be left out with a note')
    .option('--force', 'write over a file that is there')
    .option('--json', 'print what was written as JSON')
    .action(async (from: string, to: string, options: Options) => {
      const { thin, timeAware = false, strict = false, force = false } = options;
      formatOfEnding(to);
      const { trails, lines, routes, waypoints } = await readTracks(from, { strict });
      const thinned =
        thin === undefined ? trails : trails.map((trail) => thinTrail(trail, thin, { timeAware }));
      const { text, left } = trackText(to, { trails: thinned, lines, routes, waypoints });
      if (left.length > 0) {
        const reason = `${left.join(' and ')} left out: the format has no place for them`;
        if (strict) throw new InputError('bad-value', reason, { source: to });
        process.stderr.write(`aurelian: ${to}: ${reason}\n`);
      }
      await writeNew(to, text, force);
      const count = (all: typeof trails) => all.reduce((sum, trail) => sum + trail.length, 0);
      const told = {
        out: to,
        trails: thinned.length,
        fixes: count(thinned),
        lines: lines.length + routes.length,
        waypoints: waypoints.length,
      };
      if (options.json === true) {
        printJson({ ...told, ...(thin !== undefined && { leftOut: count(trails) - told.fixes }) });
        return;
      }
      const thinnedFrom = thin === undefined ? '' : ` of ${count(trails)}`;
      const parts = [
        `${counted(told.trails, 'trail')} with ${told.fixes}${thinnedFrom} fixes`,
        ...(told.lines > 0 ? [counted(told.lines, 'line')] : []),
        ...(told.waypoints > 0 ? [counted(told.waypoints, 'waypoint')] : []),
      ];
      process.stdout.write(`${to}: ${parts.join(', ')}\n`);
    });
}

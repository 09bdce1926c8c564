import { Command, Option } from 'commander';
import { durationText, InputError, lengthText, Trail } from 'aurelian-drift';
import {
  ACCURACY_STATEMENTS,
  GAIT_NAMES,
  journey,
  RECEPTION_NAMES,
  SPEED_STATEMENTS,
  type AccuracyStatement,
  type Gait,
  type Reception,
  type SpeedStatement,
} from 'aurelian-drift/testing';
import type { RestFigures } from 'aurelian-drift/internal';
import { readRoute } from './files.js';
import { printJson, summaryJson } from './json.js';
import { durationArgument, integerArgument, lengthArgument, timeArgument } from './quantities.js';
import { checkEnding, writeTracks } from './track-output.js';

interface Options {
  out: string;
  gait: Gait;
  every: number;
  everyUpTo?: number;
  statedAccuracy: AccuracyStatement;
  statedSpeed: SpeedStatement;
  reception: Reception;
  restEvery?: number;
  restFor?: number;
  seed: number;
  start?: number;
  truth?: string;
  force?: boolean;
  json?: boolean;
}

export function simulateCommand(): Command {
  return new Command('simulate')
    .description('write the fixes of a journey along a line; the same seed gives the same bytes')
    .argument(
      '<route>',
      'GPX or GeoJSON with a line; FILE:NAME for one of several; demo or demo:NAME for the island’s rounds',
    )
    .requiredOption('-o, --out <file>', 'trail to write, .gpx, .geojson or .csv')
    .addOption(new Option('--gait <gait>', 'way of moving').choices(GAIT_NAMES).default('walk'))
    .option('--every <duration>', 'time between fixes', durationArgument, 1)
    .option('--every-up-to <duration>', 'let the time between fixes vary up to this', durationArgument)
    .addOption(
      new Option('--reception <reception>', 'conditions of reception')
        .choices(RECEPTION_NAMES)
        .default('open'),
    )
    .addOption(
      new Option('--stated-accuracy <what>', 'what the fixes state of their accuracy')
        .choices(ACCURACY_STATEMENTS)
        .default('true'),
    )
    .addOption(
      new Option('--stated-speed <what>', 'what the fixes state of speed and course')
        .choices(SPEED_STATEMENTS)
        .default('true'),
    )
    .option(
      '--rest-every <length>',
      'distance between rests on the way, varied by up to half',
      lengthArgument,
    )
    .option(
      '--rest-for <duration>',
      'duration of a rest, varied by up to half (default: 2min)',
      durationArgument,
    )
    .option('--seed <number>', 'seed of the random numbers', integerArgument, 1)
    .option('--start <time>', 'time of the first fix (default: 2026-05-14T08:00:00Z)', timeArgument)
    .option('--truth <file>', 'also write the true path')
    .option('--force', 'overwrite an existing file')
    .option('--json', 'print the summary as JSON')
    .action(async (route: string, options: Options) => {
      const { out, truth, gait, every, everyUpTo, statedAccuracy, statedSpeed, reception, seed, start } =
        options;
      const rests = restsOf(options);
      for (const path of truth === undefined ? [out] : [out, truth]) checkEnding(path);
      const line = await readRoute(route);
      const name = line.name ?? 'Simulated journey';
      const seen = new Trail({ name });
      const real = new Trail({ name: `${name}, the true path` });
      for (const moment of journey(line, {
        gait,
        every,
        statedAccuracy,
        statedSpeed,
        reception,
        seed,
        ...(everyUpTo !== undefined && { everyUpTo }),
        ...(rests !== undefined && { rests }),
        ...(start !== undefined && { start }),
      })) {
        if (moment.fix !== undefined) seen.append(moment.fix);
        real.append(moment.truth);
      }
      const write = (path: string, trail: Trail) =>
        writeTracks(path, { trails: [trail] }, { force: options.force === true });
      await write(out, seen);
      if (truth !== undefined) await write(truth, real);
      const summary = seen.summary();
      if (options.json === true) {
        printJson(summaryJson(summary, name));
      } else {
        const true_ = real.summary();
        process.stdout.write(
          `${out}: ${summary.fixes} fixes, ${lengthText(summary.distance)} in ${durationText(summary.duration ?? 0)} ` +
            `(truly ${lengthText(true_.distance)})\n`,
        );
      }
    });
}

/** Default seconds of a rest. */
const REST = 120;

function restsOf({ restEvery, restFor }: Options): RestFigures | undefined {
  if (restEvery !== undefined) return { every: restEvery, for: restFor ?? REST };
  if (restFor !== undefined)
    throw new InputError(
      'bad-value',
      '--rest-for needs --rest-every: how far apart the rests are, such as 400m',
    );
  return undefined;
}

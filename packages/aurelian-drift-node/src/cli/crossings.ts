import { Command, InvalidArgumentError } from 'commander';
import {
  writeCrossingsCsv,
  crossingsToGeoJson,
  FenceTimes,
  InputError,
  selectCrossings,
  type Crossing,
  type CrossingKind,
  type Fence,
  type FenceWatchOptions,
  type TimeInside,
  type TooSmallFence,
  type Trail,
} from 'aurelian-drift';
import { CROSSING_KINDS, passThrough, suggestion } from 'aurelian-drift/internal';
import { FileOutput } from '../files/file-output.js';
import { readFences, readTrails } from './files.js';
import { crossingJson, printJson } from './json.js';
import { Misuse } from './misuse.js';
import { reportTooSmall } from './notes.js';
import { gathered, timeArgument } from './quantities.js';
import { CROSSING_LOG_HEAD, INSIDE_HEAD, PLAIN_WORDS, crossingLogRow, insideRow, table } from './tables.js';

interface Options {
  readonly fences: string;
  readonly kind?: readonly CrossingKind[];
  readonly fence?: readonly string[];
  readonly from?: number;
  readonly to?: number;
  readonly certainty?: number;
  readonly trusting?: boolean;
  readonly pairs?: boolean;
  readonly times?: boolean;
  readonly out?: string;
  readonly force?: boolean;
  readonly json?: boolean;
}

export function crossingsCommand(): Command {
  return new Command('crossings')
    .description('list the fence crossings of trails: kind, time, place and certainty')
    .argument('<files...>', 'GPX, GeoJSON, KML, CSV or NMEA 0183; - for standard input')
    .requiredOption(
      '--fences <file>',
      'GeoJSON with polygons, points with a radius and lines with a halfWidth, or demo for the sections of the island',
    )
    .option('--kind <kinds>', 'only these kinds, like enter,exit', kindsArgument)
    .option('--fence <name>', 'only this fence, by name or id; repeatable', gathered)
    .option('--from <time>', 'only from this time, like 2026-05-14T08:00:00Z', timeArgument)
    .option('--to <time>', 'only before this time', timeArgument)
    .option(
      '--certainty <probability>',
      'probability that counts as inside, 0.5 to 0.999999',
      certaintyArgument,
    )
    .option('--trusting', 'take every position as exact, whatever its accuracy')
    .option('--pairs', 'report in and out between two fixes as an enter and an exit, not as a pass')
    .option('--times', 'also print the time in each fence')
    .option('-o, --out <file>', 'write a .csv or .geojson file instead')
    .option('--force', 'overwrite an existing file')
    .option('--json', 'print one JSON value per crossing')
    .action(async (files: string[], options: Options) => {
      const { out, times = false } = options;
      if (out !== undefined && !/\.(csv|geojson)$/i.test(out))
        throw new Misuse(`${out}: the ending says the format; .csv and .geojson are known`);
      if (out === undefined && options.force === true) throw new Misuse('--force goes with -o');
      const fences = await readFences(options.fences);
      for (const name of options.fence ?? []) checkName(name, fences, options.fences);
      const trails: Trail[] = [];
      for (const file of files) trails.push(...(await readTrails(file)));
      const onTooSmall = reportTooSmall();
      const watched = trails.map((trail) => watchTrail(trail, fences, options, onTooSmall));
      const crossings = watched.flatMap(({ crossings }) =>
        selectCrossings(crossings, {
          fences: options.fence,
          kinds: options.kind,
          from: options.from,
          to: options.to,
        }),
      );
      const inside = summedUp(watched.map((each) => each.inside));
      if (out !== undefined) write(out, crossings, options.force === true);
      else if (options.json === true) {
        for (const crossing of crossings) printJson(crossingJson(crossing));
        if (times) for (const each of inside) printJson(each);
      } else print(crossings, fences, times ? inside : []);
    });
}

function print(
  crossings: readonly Crossing[],
  fences: readonly Fence[],
  inside: readonly TimeInside[],
): void {
  if (crossings.length === 0) process.stdout.write(`nothing to tell of ${fences.length} fences\n`);
  else process.stdout.write(table(crossings.map(crossingLogRow), CROSSING_LOG_HEAD, [5, 6, 7]));
  if (inside.length === 0) return;
  const rows = inside.map((each) => insideRow(each, PLAIN_WORDS));
  process.stdout.write(`\n${table(rows, INSIDE_HEAD, [1, 2])}`);
}

function write(path: string, crossings: readonly Crossing[], force: boolean): void {
  const text = /\.csv$/i.test(path)
    ? writeCrossingsCsv(crossings)
    : `${JSON.stringify(crossingsToGeoJson(crossings), undefined, 2)}\n`;
  const file = new FileOutput(path, { force });
  try {
    file.write(text);
    file.end();
  } catch (error) {
    file.abandon();
    throw error;
  }
  process.stderr.write(`${path}: ${crossings.length} crossings\n`);
}

/** Crossings and times of a whole trail, with its breaks. */
export function watchTrail(
  trail: Trail,
  fences: readonly Fence[],
  { certainty, trusting, pairs }: Pick<Options, 'certainty' | 'trusting' | 'pairs'> = {},
  onTooSmall?: (fence: TooSmallFence) => void,
): { crossings: Crossing[]; inside: TimeInside[] } {
  const watchOptions: FenceWatchOptions = {
    ...(certainty !== undefined && { certainty }),
    ...(trusting === true && { mode: 'trusting' as const }),
    ...(pairs === true && { passes: 'pair' as const }),
    ...(onTooSmall !== undefined && { onTooSmall }),
  };
  const times = new FenceTimes(fences, watchOptions);
  const crossings: Crossing[] = [];
  passThrough(trail, {
    take: (fix) => void crossings.push(...times.take(fix)),
    breakSegment: () => times.breakSegment(),
  });
  return { crossings, inside: times.timeInside };
}

/** Sum of the times of several trails. */
function summedUp(all: readonly (readonly TimeInside[])[]): TimeInside[] {
  const sums = new Map<string, TimeInside>();
  for (const each of all.flat()) {
    const { duration = 0, visits = 0 } = sums.get(each.fence) ?? {};
    sums.set(each.fence, { ...each, duration: duration + each.duration, visits: visits + each.visits });
  }
  return [...sums.values()];
}

function checkName(name: string, fences: readonly Fence[], file: string): void {
  if (fences.some((fence) => fence.id === name || fence.name === name)) return;
  const names = fences.map((fence) => fence.name);
  throw new InputError('bad-value', `there is no fence "${name}", ${suggestion(name, names.slice(0, 50))}`, {
    source: file,
  });
}

function kindsArgument(text: string): CrossingKind[] {
  return text.split(',').map((word) => {
    const kind = CROSSING_KINDS.find((each) => each === word.trim());
    if (kind === undefined)
      throw new InvalidArgumentError(`"${word}" is no kind, ${suggestion(word, CROSSING_KINDS)}.`);
    return kind;
  });
}

function certaintyArgument(text: string): number {
  const value = Number(text);
  if (!(value >= 0.5 && value <= 0.999999)) throw new InvalidArgumentError('it is 0.5 to 0.999999.');
  return value;
}

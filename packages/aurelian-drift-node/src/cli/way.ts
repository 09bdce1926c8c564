import { Command, Option } from 'commander';
import { lengthText, durationText, planContent, planFrom, positionPair, type Fence } from 'aurelian-drift';
import {
  NoWayError,
  stepText,
  waysToGeoJson,
  type Preference,
  type Way,
  type WayRequest,
} from 'aurelian-drift/ways';
import { FileOutput } from '../files/file-output.js';
import { counted } from './counted.js';
import { readFences } from './files.js';
import { printJson } from './json.js';
import { Misuse } from './misuse.js';
import { KINDS, waysArgument } from './networks.js';
import { placeOrPosition, type NamedPosition } from './place-or-position.js';
import { countArgument, gathered } from './quantities.js';
import { printable, table } from './tables.js';
import { checkEnding, writeTracks } from './track-output.js';

interface Options {
  readonly by: string;
  readonly network: string;
  readonly via?: readonly string[];
  readonly prefer: Preference;
  readonly avoid?: string;
  readonly closed?: string;
  readonly choices: number;
  readonly places: string;
  readonly out?: string;
  readonly force?: boolean;
  readonly json?: boolean;
}

export function wayCommand(): Command {
  return new Command('way')
    .description('find the way from a place to another over a network of lanes, with its steps')
    .argument('<from>', 'a position like 44.2,-33.6, a geo URI, or the name of a place')
    .argument('<to>', 'the same')
    .option('--by <kind>', `kind of travel: ${KINDS}`, 'foot')
    .option('--network <where>', 'GeoJSON of lanes, the address of a service, or demo for the island', 'demo')
    .option('--via <place>', 'a place to pass; repeatable', gathered)
    .addOption(
      new Option('--prefer <what>', 'what counts').choices(['fastest', 'shortest']).default('fastest'),
    )
    .option(
      '--avoid <file>',
      'GeoJSON of areas to enter only where there is no reasonable way around; or demo',
    )
    .option('--closed <file>', 'GeoJSON of areas never to enter, or demo for the closed banks of the island')
    .option('--choices <count>', 'largest number of different ways, 1 to 5', countArgument, 1)
    .option(
      '--places <where>',
      'names: a GeoJSON file, the address of a service, or demo for the island',
      'demo',
    )
    .option('-o, --out <file>', 'write the ways as .geojson, or the best one as a plan: .gpx or .kml')
    .option('--force', 'overwrite an existing file')
    .option('--json', 'print GeoJSON')
    .action(async (from: string, to: string, options: Options) => {
      const { by, prefer, choices, out, places, json = false } = options;
      if (choices > 5) throw new Misuse('--choices is 1 to 5');
      if (out === undefined && options.force === true) throw new Misuse('--force goes with -o');
      if (out !== undefined) checkEnding(out);
      const ends = await Promise.all(
        [from, ...(options.via ?? []), to].map((text) => placeOrPosition(text, places)),
      );
      const request: WayRequest = {
        from: bare(ends[0] as NamedPosition),
        to: bare(ends.at(-1) as NamedPosition),
        via: ends.slice(1, -1).map(bare),
        by,
        prefer,
        choices,
        avoid: await areas(options.avoid),
        closed: await areas(options.closed),
      };
      const ways = await (await waysArgument(options.network)).ways(request);
      if (out !== undefined) await write(out, ways, ends, options.force === true);
      else if (json) printJson(waysToGeoJson(ways));
      else ways.forEach((way, i) => print(way, i, ends));
    });
}

function print(way: Way, index: number, ends: readonly NamedPosition[]): void {
  const [from, to] = [ends[0], ends.at(-1)].map((end) => end?.name ?? positionPair(end as NamedPosition, 5));
  const { by, metres, seconds, walk, steps, enters } = way;
  const title =
    index === 0 ? `From ${from} to ${to}, ${by === 'foot' ? 'on foot' : `by ${by}`}` : 'Another way';
  const parts = [`${title}: ${lengthText(metres)}, ${durationText(seconds)}`];
  const [first, last] = walk;
  if (first >= 10) parts.push(`the nearest lane is ${lengthText(first)} from the start`);
  if (last >= 10) parts.push(`the way ends ${lengthText(last)} before the target`);
  if (enters.length > 0) parts.push(`it enters ${enters.join(', ')}: there is no reasonable way around`);
  const rows = steps.map((step) => [
    lengthText(step.along),
    printable(stepText(step)).replace(/, [^,]*$/, ''),
    step.turn === 'arrive' ? '' : lengthText(step.metres),
  ]);
  process.stdout.write(`${index === 0 ? '' : '\n'}${parts.map(printable).join('\n')}\n`);
  process.stdout.write(table(rows, ['at', 'step', 'for'], [0, 2]));
}

async function write(
  out: string,
  ways: readonly Way[],
  ends: readonly NamedPosition[],
  force: boolean,
): Promise<void> {
  const [from, to] = [ends[0]?.name ?? 'start', ends.at(-1)?.name ?? 'target'];
  const [best] = ways;
  if (best === undefined) throw new NoWayError('no-way', 'no way was found');
  if (/\.(geo)?json$/i.test(out)) {
    const file = new FileOutput(out, { force });
    try {
      file.write(`${JSON.stringify(waysToGeoJson(ways), undefined, 1)}\n`);
      file.end();
    } catch (error) {
      file.abandon();
      throw error;
    }
  } else {
    const named = best.steps.flatMap(({ name, at, along }) =>
      name === undefined ? [] : [{ ...at, name, along }],
    );
    const plan = planFrom({ name: `${from} to ${to}`, ...best.line }, { stations: named });
    await writeTracks(out, planContent(plan), { force });
  }
  process.stderr.write(`${out}: ${counted(ways.length, 'way')}\n`);
}

function areas(file: string | undefined): Promise<readonly Fence[]> {
  return file === undefined ? Promise.resolve([]) : readFences(file, 'banks');
}

function bare({ lat, lon }: NamedPosition) {
  return { lat, lon };
}

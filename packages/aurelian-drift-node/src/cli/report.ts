import { Command, Option } from 'commander';
import { UNIT_SYSTEMS, Veil, type UnitSystem } from 'aurelian-drift';
import { TRAIL_PATHS } from 'aurelian-drift/internal';
import type { TrailPath } from 'aurelian-drift/map';
import { reportPage } from 'aurelian-drift/report';
import { FileOutput } from '../files/file-output.js';
import { creditOf } from './demo.js';
import { readClosedFences, readFences, noTrail, readGround, readTracks } from './files.js';
import { printJson } from './json.js';
import { Misuse } from './misuse.js';
import { lengthArgument } from './quantities.js';
import { reportFont } from './report-font.js';
import { counted } from './counted.js';

interface Options {
  readonly out: string;
  readonly base?: string;
  readonly fences?: string;
  readonly veil?: string;
  readonly splits?: number;
  readonly title?: string;
  readonly units: UnitSystem;
  readonly path: TrailPath;
  readonly locale: string;
  readonly zone: string;
  readonly strict?: boolean;
  readonly force?: boolean;
  readonly json?: boolean;
}

export function reportCommand(): Command {
  return new Command('report')
    .description('write a self-contained page: map, figures, profiles, splits, crossings')
    .argument('<file>', 'GPX, GeoJSON, KML, CSV or NMEA 0183; - for standard input')
    .requiredOption('-o, --out <file>', 'page to write, .html')
    .option('--base <file>', 'GeoJSON of the map’s background, or demo for the island (default: a grid)')
    .option(
      '--fences <file>',
      'also report crossings of the fences in this GeoJSON file; demo for the sections of the island',
    )
    .option('--veil <file>', 'GeoJSON of areas that are cut out, with the way to them')
    .option('--splits <length>', 'length of a split (default: 1km, 1mi or 1nmi)', lengthArgument)
    .option('--title <text>', 'heading of the page')
    .addOption(new Option('--units <units>', 'units of the page').choices(UNIT_SYSTEMS).default('metric'))
    .addOption(
      new Option('--path <path>', 'draw trails from fix to fix, smoothed, or both')
        .choices(TRAIL_PATHS)
        .default('raw'),
    )
    .option('--locale <tag>', 'locale of numbers and dates, like de-AT', 'en-GB')
    .option('--zone <name>', 'time zone of the report, like Etc/GMT+2', 'UTC')
    .option('--strict', 'refuse content instead of leaving it out with a note')
    .option('--force', 'overwrite an existing file')
    .option('--json', 'print the result as JSON')
    .action(async (file: string, options: Options) => {
      const { out, base, fences, veil, splits, title, units, path, locale, zone, force = false } = options;
      if (!/\.html?$/i.test(out)) throw new Misuse(`${out}: a report is written as .html`);
      const read = await readTracks(file, options);
      const planned = [...read.lines, ...read.routes];
      if (read.trails.length + planned.length === 0) throw noTrail(file, read);
      const areas = veil === undefined ? undefined : new Veil(await readFences(veil));
      const trails = areas === undefined ? read.trails : read.trails.map((trail) => areas.trail(trail));
      const lines = areas === undefined ? planned : planned.flatMap((line) => areas.line(line) ?? []);
      const page = reportPage(
        {
          trails,
          lines,
          ...(fences !== undefined && {
            fences: await readFences(fences),
            closed: await readClosedFences(fences),
          }),
          ...(base !== undefined && {
            ground: await readGround(base),
            credit: creditOf(base),
          }),
        },
        {
          units,
          path,
          locale,
          timeZone: zone,
          font: await reportFont(),
          ...(splits !== undefined && { splits }),
          ...(title !== undefined && { title }),
        },
      );
      const output = new FileOutput(out, { force });
      output.write(page);
      output.end();
      const reported = {
        out,
        trails: trails.length,
        ...(lines.length > 0 && { lines: lines.length }),
        fixes: trails.reduce((sum, { length }) => sum + length, 0),
      };
      if (options.json === true) printJson({ ...reported, bytes: Buffer.byteLength(page) });
      else
        process.stdout.write(
          `${out}: ${contentText(reported)}, ` + `${Math.round(Buffer.byteLength(page) / 1000)} kB\n`,
        );
    });
}

function contentText({
  trails,
  lines = 0,
  fixes,
}: {
  readonly trails: number;
  readonly lines?: number;
  readonly fixes: number;
}): string {
  const parts = [
    ...(trails > 0 ? [`${counted(trails, 'trail')} with ${counted(fixes, 'fix', 'fixes')}`] : []),
    ...(lines > 0 ? [counted(lines, 'line')] : []),
  ];
  return parts.join(', ');
}

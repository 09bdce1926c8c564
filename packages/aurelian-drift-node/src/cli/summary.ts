import { Command, Option } from 'commander';
import {
  FenceTimes,
  Formatter,
  GIVEN_WAYS,
  RunningSummary,
  SlopeCounter,
  SplitCounter,
  UNIT_SYSTEMS,
  lineSummary,
  type Fence,
  type Line,
  type GivenWay,
  type MeasureOptions,
  type PiecePlace,
  type Split,
  type Summary,
  type TimeInside,
  type TrackSink,
  type Trail,
  type UnitSystem,
} from 'aurelian-drift';
import { TrackGatherer } from 'aurelian-drift/internal';
import { matchTrail, type Network, type TrailMatch } from 'aurelian-drift/ways';
import { streamTrackFile } from '../files/track-file.js';
import { noTrail, readFences } from './files.js';
import { sourceName } from '../files/text-file.js';
import { lineJson, printJson, splitJson, summaryJson } from './json.js';
import { readNetwork } from './networks.js';
import { NoteReporter } from './notes.js';
import { lengthArgument } from './quantities.js';
import {
  INSIDE_HEAD,
  SPLIT_HEAD,
  insideRow,
  lineRows,
  printable,
  splitRow,
  summaryRows,
  table,
} from './tables.js';

interface Options {
  readonly raw?: boolean;
  readonly moving?: GivenWay;
  readonly splits?: number;
  readonly slope?: boolean;
  readonly fences?: string;
  readonly network?: string;
  readonly strict?: boolean;
  readonly units: UnitSystem;
  readonly json?: boolean;
}

/** Fixes in memory at a time. */
const PIECE = 4096;

export function summaryCommand(): Command {
  return new Command('summary')
    .description(
      'print distance, times, speeds, climb, gaps and bounds of every trail in the files; of lines, the figures ' +
        'that need no times',
    )
    .argument('<files...>', 'GPX, GeoJSON, KML, CSV or NMEA 0183; - for standard input')
    .option('--raw', 'measure from fix to fix, with all the noise')
    .addOption(new Option('--moving <way>', 'way of moving; inferred by default').choices(GIVEN_WAYS))
    .option('--splits <length>', 'also print splits of this length, like 1km or 1mi', lengthArgument)
    .option('--slope', 'also print the length along the slope, with the smoothed heights')
    .option(
      '--fences <file>',
      'also print the time in each fence of this GeoJSON file; demo for the sections of the island',
    )
    .option(
      '--network <file>',
      'also print the length on the lanes of this GeoJSON file, and off them; demo for the island',
    )
    .option('--strict', 'refuse content instead of leaving it out with a note')
    .addOption(new Option('--units <units>', 'units of the text').choices(UNIT_SYSTEMS).default('metric'))
    .option('--json', 'print one JSON value per trail')
    .action(async (files: string[], options: Options) => {
      const fences = options.fences === undefined ? undefined : await readFences(options.fences);
      const network = options.network === undefined ? undefined : await readNetwork(options.network);
      for (const file of files) await summariseFile(file, { fences, network }, options);
    });
}

/** What trails are compared with. */
interface Beside {
  readonly fences: readonly Fence[] | undefined;
  readonly network: Network | undefined;
}

async function summariseFile(file: string, beside: Beside, options: Options): Promise<void> {
  const notes = new NoteReporter(sourceName(file));
  const others = { lines: [] as Line[], routes: [] as Line[], waypoints: [] as unknown[] };
  let count: TrailCount | undefined;
  // Printed when the file has been read: nothing is printed of a refused one.
  const reported: (() => void)[] = [];
  const sink: TrackSink = {
    trail(piece, place) {
      if (place.first || count === undefined) count = new TrailCount(beside, options);
      count.add(piece, place);
      if (!place.last) return;
      const whole = count;
      reported.push(() => print(whole, piece, file, options));
    },
    line: (line) => others.lines.push(line),
    route: (route) => others.routes.push(route),
    waypoint: (waypoint) => others.waypoints.push(waypoint.name),
    title: () => undefined,
    note: (note) => notes.report(note),
  };
  await streamTrackFile(file, sink, { strict: options.strict === true, pieceSize: PIECE });
  notes.end();
  for (const line of [...others.lines, ...others.routes]) reported.push(() => printLine(line, file, options));
  if (reported.length === 0) throw noTrail(file, others);
  for (const report of reported) report();
}

/** Figures of a trail, counted piece by piece. */
class TrailCount {
  readonly #summary: RunningSummary;
  readonly #splits: SplitCounter | undefined;
  readonly #slope: SlopeCounter | undefined;
  readonly #times: FenceTimes | undefined;
  readonly #network: Network | undefined;
  /** The trail as a whole, for the network. */
  readonly #whole = new TrackGatherer();

  constructor({ fences, network }: Beside, { raw = false, moving, splits, slope = false }: Options) {
    const options: MeasureOptions = { path: raw ? 'fixes' : undefined, moving };
    this.#summary = new RunningSummary(options);
    this.#splits = splits === undefined ? undefined : new SplitCounter(splits, options);
    if (slope) this.#slope = new SlopeCounter(options);
    this.#times = fences === undefined ? undefined : new FenceTimes(fences);
    this.#network = network;
  }

  add(piece: Trail, place: PiecePlace): void {
    const { first, last, joined } = place;
    if (this.#network !== undefined) this.#whole.trail(piece, place);
    if (!first && !joined) this.#break();
    piece.segments.forEach((segment, s) => {
      if (s > 0) this.#break();
      for (const fix of piece.fixesOf(segment)) {
        this.#summary.take(fix);
        this.#splits?.take(fix);
        this.#slope?.take(fix);
        this.#times?.take(fix);
      }
    });
    if (last) this.#break();
  }

  #break(): void {
    this.#summary.breakSegment();
    this.#splits?.breakSegment();
    this.#slope?.breakSegment();
    this.#times?.breakSegment();
  }

  /** Metres along the slope, if asked for. */
  get slope(): number | undefined {
    return this.#slope?.metres;
  }

  /** The trail on the network, if there is one. */
  get match(): TrailMatch | undefined {
    const [trail] = this.#whole.document.trails;
    return this.#network === undefined || trail === undefined ? undefined : matchTrail(trail, this.#network);
  }

  get summary(): Summary {
    return this.#summary.summary();
  }

  get splits(): readonly Split[] | undefined {
    return this.#splits?.splits;
  }

  get inside(): readonly TimeInside[] | undefined {
    return this.#times?.timeInside;
  }
}

/** Figures of a line: only those that need no times. */
function printLine(line: Line, file: string, { json, units }: Options): void {
  const summary = lineSummary(line);
  if (json === true) {
    printJson({ ...(line.name !== undefined && { name: line.name }), untimed: true, ...lineJson(summary) });
    return;
  }
  const words = new Formatter({ locale: 'en-GB', timeZone: 'UTC', units });
  process.stdout.write(`${printable(line.name ?? file)}\n${table(lineRows(summary, words))}\n`);
}

function print(count: TrailCount, { name, veiled }: Trail, file: string, { json, units }: Options): void {
  const summary = { ...count.summary, ...(veiled !== undefined && { veiled }) };
  const { splits, inside, slope, match } = count;
  if (json === true) {
    printJson({
      ...summaryJson(summary, name),
      ...(slope !== undefined && { slopeDistance: Math.round(slope * 1000) / 1000 }),
      ...(match !== undefined && { onLanes: Math.round(match.on), offLanes: Math.round(match.off) }),
      ...(splits !== undefined && { splits: splits.map(splitJson) }),
      ...(inside !== undefined && { inside }),
    });
    return;
  }
  const words = new Formatter({ locale: 'en-GB', timeZone: 'UTC', units });
  process.stdout.write(
    `${printable(name ?? file)}\n${table(summaryRows(summary, words, { slope, match }))}\n`,
  );
  if (splits !== undefined)
    process.stdout.write(
      `${table(
        splits.map((split, i) => splitRow(split, i, words)),
        SPLIT_HEAD,
        [0, 1, 2, 3, 4, 5, 6],
      )}\n`,
    );
  if (inside !== undefined)
    process.stdout.write(
      `${table(
        inside.map((each) => insideRow(each, words)),
        INSIDE_HEAD,
        [1, 2],
      )}\n`,
    );
}

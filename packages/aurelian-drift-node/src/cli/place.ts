import { Command, Option } from 'commander';
import { courseText, lengthText, positionText, type Position } from 'aurelian-drift';
import { addressLines, PLACE_LEVELS, type PlaceAnswer, type PlaceLevel } from 'aurelian-drift/places';
import { languageProblem, patternProblem } from 'aurelian-drift/internal';
import { placesArgument } from './gazetteers.js';
import { printJson } from './json.js';
import { positionArgument, ruled } from './quantities.js';
import { table } from './tables.js';

/** Options of every question for places. */
export interface PlaceOptions {
  readonly places: string;
  readonly language?: string[];
  readonly pattern?: string;
  readonly json?: boolean;
}

/** Adds the options of every question for places. */
export function withPlaceOptions(command: Command): Command {
  return command
    .option('--places <where>', 'a GeoJSON file, the address of a service, or demo for the island', 'demo')
    .option('--language <tags>', 'languages of names, like en or pt-BR,pt; the preferred one first', (text) =>
      ruled(text.split(','), languageProblem),
    )
    .option('--pattern <country>', 'address format of a country, by ISO 3166-1 code, like GB', (text) =>
      ruled(text, patternProblem),
    )
    .option('--json', 'print one JSON value, in metres and degrees');
}

/** The options for the question itself. */
export function wordingOf({ language, pattern }: PlaceOptions): { language?: string[]; pattern?: string } {
  return { ...(language !== undefined && { language }), ...(pattern !== undefined && { pattern }) };
}

export function placeCommand(): Command {
  return withPlaceOptions(
    new Command('place')
      .description('print the places at a position: house, spot, street, locality, region')
      .argument('<position>', 'like 44.2,-33.6', positionArgument)
      .addOption(new Option('--level <level>', 'finest level of the answer').choices(PLACE_LEVELS)),
  ).action(async (at: Position, options: PlaceOptions & { level?: PlaceLevel }) => {
    const places = await placesArgument(options.places);
    const { level } = options;
    const answers = await places.at(at, { ...wordingOf(options), ...(level !== undefined && { level }) });
    if (options.json === true) {
      printJson({ position: at, answers });
      return;
    }
    const [first] = answers;
    const heading = first === undefined ? 'nothing is known here' : lines(first, options.pattern).join('\n');
    process.stdout.write(`${positionText(at)}\n${heading}\n`);
    if (answers.length > 0) process.stdout.write(`\n${table(answers.map(rowOf), undefined, [2])}`);
    process.stdout.write(starsText(answers));
  });
}

/** The first answer in detail: its address line by line, or the relation to the position. */
function lines(answer: PlaceAnswer, pattern: string | undefined): string[] {
  if (answer.relation === 'off') return [`no address here; ${answer.text}`];
  const { name, level, estimated } = answer;
  const address = addressLines(answer, pattern);
  const title = name !== undefined && (level === 'spot' || level === 'house') ? [name] : [];
  const [street, ...rest] = [...title, ...address];
  return [
    estimated === true ? `${street ?? ''} (estimated between two known numbers)` : (street ?? ''),
    ...rest,
  ];
}

/** Level, text, metres and direction. */
function rowOf(answer: PlaceAnswer): string[] {
  const { level, kind, distance = 0, bearing, relation } = answer;
  const what = level === 'spot' ? kind : level;
  return [
    relation === 'off' ? `nearest ${what}` : what,
    starred(answer),
    distance === 0 ? 'within' : lengthText(distance),
    bearing === undefined ? '' : courseText(bearing),
  ];
}

/** Text of an answer, with a star where it is not completely in the requested language. */
export function starred({ text, fallback }: PlaceAnswer): string {
  return fallback === undefined ? text : `${text} *`;
}

/** Explanation of the stars; nothing when there are none. */
export function starsText(answers: readonly PlaceAnswer[]): string {
  const parts = new Set(answers.flatMap(({ fallback }) => fallback ?? []));
  return parts.size === 0 ? '' : `* not in the language asked for: ${[...parts].join(', ')}\n`;
}

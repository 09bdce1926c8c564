import { Command } from 'commander';
import { courseText, lengthText, positionPair, readPosition } from 'aurelian-drift';
import { placesArgument } from './gazetteers.js';
import { printJson } from './json.js';
import { starred, starsText, withPlaceOptions, wordingOf, type PlaceOptions } from './place.js';
import { placeOrPosition } from './place-or-position.js';
import { countArgument } from './quantities.js';
import { table } from './tables.js';

interface Options extends PlaceOptions {
  readonly near?: string;
  readonly max: number;
}

export function findCommand(): Command {
  return withPlaceOptions(
    new Command('find')
      .description('find places by their words, in any order; beginnings and small misspellings count')
      .argument('<text...>', 'like 14 Plover Lane, or chapel well')
      .option('--near <place>', 'a position, or the name of a place, whose neighbourhood comes first')
      .option('--max <count>', 'largest number of answers', countArgument, 10),
  ).action(async (words: string[], options: Options) => {
    const text = words.join(' ');
    const { max } = options;
    const near = options.near === undefined ? undefined : await placeOrPosition(options.near, options.places);
    const typed = readPosition(text);
    if (typed !== undefined && options.json !== true) {
      process.stdout.write(
        `this is a position: ${positionPair(typed)}; aurelian place tells what is there\n`,
      );
      return;
    }
    const places = await placesArgument(options.places);
    const found = await places.named(text, {
      ...wordingOf(options),
      max,
      ...(near !== undefined && { near: { lat: near.lat, lon: near.lon } }),
    });
    if (options.json === true) {
      printJson({ text, places: found });
      return;
    }
    if (found.length === 0) {
      process.stdout.write(`no place has the name "${text}"\n`);
      return;
    }
    const slips = found.every(({ match }) => match === 'misspelt');
    if (slips) process.stdout.write(`no place has the name "${text}"; similar names:\n`);
    const rows = found.map((answer) => [
      starred(answer),
      answer.kind,
      positionPair(answer),
      ...(near === undefined
        ? []
        : [lengthText(answer.distance ?? 0), answer.bearing === undefined ? '' : courseText(answer.bearing)]),
    ]);
    process.stdout.write(
      table(rows, ['place', 'kind', 'position', ...(near === undefined ? [] : ['away', 'direction'])], [3]),
    );
    process.stdout.write(starsText(found));
  });
}

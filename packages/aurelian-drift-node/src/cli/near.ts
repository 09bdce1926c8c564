import { Command, Option } from 'commander';
import { courseText, lengthText } from 'aurelian-drift';
import { NEAR_ORDERS } from 'aurelian-drift/internal';
import { placesArgument } from './gazetteers.js';
import { printJson } from './json.js';
import { starred, starsText, withPlaceOptions, wordingOf, type PlaceOptions } from './place.js';
import { placeOrPosition } from './place-or-position.js';
import { countArgument, lengthArgument } from './quantities.js';
import { table } from './tables.js';

interface Options extends PlaceOptions {
  readonly within?: number;
  readonly max: number;
  readonly kind?: string[];
  readonly by: (typeof NEAR_ORDERS)[number];
}

export function nearCommand(): Command {
  return withPlaceOptions(
    new Command('near')
      .description('list places around a position, with distance and direction')
      .argument('<place>', 'a position like 44.2,-33.6, a geo URI, or the name of a place')
      .option('--within <length>', 'maximum distance, like 500m (default: any)', lengthArgument)
      .option('--max <count>', 'largest number of answers', countArgument, 10)
      .option('--kind <kinds>', 'wanted kinds, like hut,well', (text) => text.split(','))
      .addOption(new Option('--by <order>', 'order of the answers').choices(NEAR_ORDERS).default('distance')),
  ).action(async (text: string, options: Options) => {
    const { lat, lon } = await placeOrPosition(text, options.places);
    const at = { lat, lon };
    const { within, max, kind: kinds, by } = options;
    const places = await placesArgument(options.places);
    const found = await places.near(at, {
      ...wordingOf(options),
      max,
      by,
      ...(within !== undefined && { within }),
      ...(kinds !== undefined && { kinds }),
    });
    if (options.json === true) {
      printJson({ position: at, places: found });
      return;
    }
    if (found.length === 0) {
      process.stdout.write(
        `no place ${within === undefined ? 'is known' : `within ${lengthText(within)}`}\n`,
      );
      return;
    }
    const rows = found.map((answer) => [
      lengthText(answer.distance ?? 0),
      answer.bearing === undefined ? '' : courseText(answer.bearing),
      answer.kind,
      starred(answer),
      answer.prominence === undefined ? '' : String(answer.prominence),
    ]);
    process.stdout.write(table(rows, ['away', 'direction', 'kind', 'place', 'prominence'], [0, 4]));
    process.stdout.write(starsText(found));
  });
}

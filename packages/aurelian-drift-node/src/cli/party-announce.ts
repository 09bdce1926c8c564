import { Command } from 'commander';
import { accuracyText, InputError, positionText, Receiver, Veil } from 'aurelian-drift';
import { Presence, termsText, type SharedPlace } from 'aurelian-drift/presence';
import { timeText } from 'aurelian-drift/internal';
import { sourceName } from '../files/text-file.js';
import { asked } from './asked.js';
import { feedOf } from './feeds.js';
import { readFences } from './files.js';
import { printJson } from './json.js';
import { Misuse } from './misuse.js';
import { NoteReporter } from './notes.js';
import { brokerOf, withLink, type LinkOptions } from './party-link.js';
import { durationArgument, lengthArgument } from './quantities.js';
import { clockText } from './tables.js';

interface Options extends LinkOptions {
  readonly as: string;
  readonly name?: string;
  readonly seenBy?: string[];
  readonly every?: number;
  readonly beyond?: number;
  readonly rounding?: number;
  readonly veil?: string;
  readonly trail?: number;
  readonly limit?: number;
  readonly keepAlive?: number;
  readonly retention?: number;
  readonly json?: boolean;
}

/** Maximum seconds for removing the record when the process is asked to end. */
const PATIENCE = 5;

export function announceCommand(): Command {
  const command = new Command('announce')
    .description('share the position of a receiver, until it ends or Ctrl+C')
    .argument(
      '<input>',
      '- or tcp://HOST:PORT for live NMEA 0183; demo or demo:NAME for a pretend walk on the island',
    )
    .requiredOption('--as <id>', 'id of the member');
  return withLink(command, 'the member')
    .option('--name <name>', 'display name')
    .option('--seen-by <who...>', 'recipients in words (default: all who may read the party)')
    .option('--every <duration>', 'minimum time since the last place sent', durationArgument)
    .option('--beyond <length>', 'minimum distance from the last one', lengthArgument)
    .option('--rounding <length>', 'round places to this length before they are sent', lengthArgument)
    .option('--veil <file>', 'GeoJSON of areas whose positions are not sent')
    .option('--trail <duration>', 'duration of the trail that is sent with each place', durationArgument)
    .option('--limit <duration>', 'time after which sharing ends by itself', durationArgument)
    .option('--keep-alive <duration>', 'time between signs of life (default: 30s)', durationArgument)
    .option(
      '--retention <duration>',
      'time for which the last place is retained after vanishing (default: 1h)',
      durationArgument,
    )
    .option('--json', 'print one JSON value per place or change')
    .action(async (input: string, options: Options) => {
      const {
        party,
        as,
        name,
        seenBy,
        veil,
        json = false,
        every,
        beyond,
        rounding,
        trail,
        limit,
        keepAlive,
        retention,
      } = options;
      if (!/^(demo(:.*)?|tcp:\/\/.*|-)$/.test(input))
        throw new Misuse(
          `${input}: a recording is not where somebody is now; announce takes -, tcp://HOST:PORT or demo`,
        );
      const broker = await brokerOf(options, as);
      const notes = new NoteReporter(sourceName(input));
      const { source, clock } = await feedOf(input, 1, (note) => notes.report(note));
      const receiver = new Receiver({ source, clock, purpose: 'Share where a receiver is with a party.' });
      const presence = new Presence({
        party,
        member: as,
        broker,
        clock,
        recipients: seenBy ?? [`all who may read the party ${party} at ${broker.name}`],
        life: { hidden: false, onEvent: () => () => {} }, // signals end the process, and are heard below
        ...given({ name, every, beyond, rounding, trail, limit, keepAlive, retention }),
        ...(veil !== undefined && { veil: new Veil(await readFences(veil)) }),
      });
      const report = (text: string) => void process.stderr.write(`${text}\n`);
      let reported = '';
      presence.$status.listen((status) => {
        const { state } = status;
        if (state === 'refused' && !json) return; // reported at the end
        const text =
          state === 'unreachable'
            ? `${state}: ${status.reason}`
            : state === 'sharing' && status.veiled
              ? 'sharing, in a private area'
              : state;
        if (text !== reported) {
          if (json) printJson({ state, ...('reason' in status && { reason: status.reason }) });
          else report(`${clockText(clock.now())}  ${text}`);
        }
        reported = text;
      });
      if (!json) for (const sentence of termsText(presence.terms, clock.now())) report(sentence);
      const follow = receiver.follow();
      follow.onEvent((event) => event.kind === 'failed' && event.error); // reported at the end, by the thrown error
      follow.onFix(() => {
        const place = presence.latest;
        if (place === undefined || place.number === printed) return;
        printed = place.number;
        if (json) printJson(placeJson(place));
        else
          process.stdout.write(
            `${clockText(place.time)}  ${positionText(place)}  ${accuracyText(place.accuracy)}\n`,
          );
      });
      let printed = 0;
      const outcome = presence.join(follow);
      const ended = asked();
      await Promise.race([
        follow.outcome,
        ended,
        outcome.then((how) => (how === 'refused' ? undefined : ended)),
      ]);
      const status = presence.$status.get();
      await Promise.race([
        presence.leave(),
        new Promise((done) => setTimeout(done, PATIENCE * 1000).unref()),
      ]);
      notes.end();
      if (status.state === 'refused') throw new InputError('bad-value', status.reason);
      if (presence.$status.get().state === 'leaving')
        report(
          `the record could not be taken back; it expires ${presence.terms.retention} s after ${as} is ` +
            `known to have vanished`,
        );
      // A source on standard input would keep the process alive.
      process.exit(follow.error === undefined ? 0 : 1);
    });
}

function placeJson({ time, trail: _, ...place }: SharedPlace): object {
  return { time: timeText(time), ...place };
}

/** Options that were given. */
function given<Given extends object>(
  options: Given,
): { [Key in keyof Given]?: Exclude<Given[Key], undefined> } {
  return Object.fromEntries(Object.entries(options).filter(([, value]) => value !== undefined)) as Given;
}

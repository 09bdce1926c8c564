import { Command, Option } from 'commander';
import { setTimeout as pause } from 'node:timers/promises';
import { accuracyText, ageText, InputError, positionText } from 'aurelian-drift';
import { PartyWatch, type Alarm, type Member } from 'aurelian-drift/presence';
import { timeText } from 'aurelian-drift/internal';
import { asked } from './asked.js';
import { printJson } from './json.js';
import { Misuse } from './misuse.js';
import { Panel } from './panel.js';
import { brokerOf, connected, refusal, withLink, type LinkOptions } from './party-link.js';
import { durationArgument } from './quantities.js';
import { clockText, printable, table, whenText } from './tables.js';

interface Options extends LinkOptions {
  readonly for?: number;
  readonly view?: 'panel' | 'lines';
  readonly json?: boolean;
}

const HEAD = ['who', 'how', 'since', 'place', 'accuracy', 'place of', 'heard'];

export function watchCommand(): Command {
  const command = new Command('watch').description('show the members of a party, until Ctrl+C');
  return withLink(command, 'hut')
    .option('--for <duration>', 'end this long after the connection, and print the roster', durationArgument)
    .addOption(
      new Option(
        '--view <view>',
        'a roster that is updated, or lines only (default: a roster on a terminal)',
      ).choices(['panel', 'lines']),
    )
    .option('--json', 'print one JSON value per change or alarm, and per member at the end')
    .action(async (options: Options) => {
      const { party, json = false } = options;
      if (options.view === 'panel' && json) throw new Misuse('--json has no panel');
      const broker = await brokerOf(options, 'hut');
      const watch = new PartyWatch({ party, broker });
      const print = (text: string) => void process.stdout.write(text);
      const view = options.view ?? (process.stdout.isTTY && !json ? 'panel' : 'lines');
      const panel = view === 'panel' ? new Panel(print) : undefined;
      const line = (text: string) => (panel === undefined ? print(`${text}\n`) : panel.line(text));
      const refused = refusal(watch.$link, broker.name);
      watch.onEvent((event) => {
        if (event.kind === 'alarm') {
          if (json) printJson(alarmJson(event.alarm));
          else line(alarmLine(event.alarm));
          return;
        }
        const { kind, before, member } = event;
        if (json) printJson(memberJson(member));
        else
          line(
            `${clockText(Date.now())}  ${printable(member.name)} ` +
              `${before === undefined || before === kind ? kind : `${before} → ${kind}`}${placeText(member)}`,
          );
      });
      if (panel !== undefined)
        watch.$members.subscribe((members) => panel.draw(`\n${rosterText(members, Date.now())}`));
      const after = options.for;
      const over =
        after === undefined ? [] : [connected(watch.$link, broker.name).then(() => pause(after * 1000))];
      const reason = await Promise.race([asked(), refused, ...over]).finally(() => watch.close());
      if (typeof reason === 'string') throw new InputError('bad-value', reason);
      const members = watch.$members.get();
      if (after === undefined) process.exit(0);
      if (json) for (const member of members) printJson(memberJson(member));
      else if (panel === undefined) print(`\n${rosterText(members, Date.now())}`);
      process.exit(0);
    });
}

function placeText({ place }: Member): string {
  return place === undefined ? '' : `  ${positionText(place)}`;
}

/** The members as a table. */
function rosterText(members: readonly Member[], now: number): string {
  if (members.length === 0) return 'Nobody shares.\n';
  const ago = (time: number) => ageText(Math.max(0, now - time) / 1000);
  const rows = members.map(({ name, state, since, place, seen, veiled }) => [
    `${MARKS[state]} ${name}`,
    veiled ? `${state}, in a private area` : state,
    clockText(since),
    place === undefined ? '' : positionText(place),
    accuracyText(place?.accuracy),
    place === undefined ? '' : ago(place.time),
    ago(seen),
  ]);
  return table(rows, HEAD);
}

const MARKS = {
  joined: '○',
  moved: '●',
  still: '●',
  asleep: '◌',
  late: '◐',
  vanished: '✕',
  left: '–',
} as const;

export function alarmLine(alarm: Alarm): string {
  const { member, kind, name, lat, lon } = alarm;
  const place = printable(name ?? '');
  const special: Readonly<Partial<Record<Alarm['kind'], string>>> = {
    missed: 'gave no sign of life since then',
    back: 'is back',
    'off-plan': `left the plan ${place}`,
    'on-plan': `is back on the plan ${place}`,
    overdue: `was planned at ${place} then, and has not been there`,
    finished: `finished the plan ${place}`,
  };
  const what = (special[kind] ?? `${kind} ${place}`).trimEnd();
  const where = lat === undefined || lon === undefined ? '' : `  ${positionText({ lat, lon })}`;
  return `${whenText(alarm)}  !! ${member} ${what}${where}`;
}

export function alarmJson({ time, notBefore, ...rest }: Alarm): object {
  return {
    ...rest,
    time: timeText(time),
    ...(notBefore !== undefined && { notBefore: timeText(notBefore) }),
  };
}

function memberJson({ since, seen, place, trail: _, until, goneAt, ...rest }: Member): object {
  const text = (time: number | undefined) => (time === undefined ? undefined : timeText(time));
  const { trail: __, time, ...where } = place ?? {};
  return {
    ...rest,
    since: timeText(since),
    seen: timeText(seen),
    place: place === undefined ? undefined : { time: text(time), ...where },
    until: text(until),
    goneAt: text(goneAt),
  };
}

import { Command, InvalidArgumentError } from 'commander';
import { InputError, fenceIndex, sharedFences, type Plan } from 'aurelian-drift';
import { PartyGuard, slotFrom, type Slot } from 'aurelian-drift/presence';
import { diskGuardStore } from '../stores/disk-guard-store.js';
import { asked } from './asked.js';
import { readFences } from './files.js';
import { printJson } from './json.js';
import { brokerOf, refusal, withLink, type LinkOptions } from './party-link.js';
import { alarmJson, alarmLine } from './party-watch.js';
import { readPlan } from './plans.js';
import { durationArgument } from './quantities.js';

interface Options extends LinkOptions {
  readonly fences?: string;
  readonly checkIn?: number;
  readonly plan?: Readonly<Record<string, string>>;
  readonly overdue?: number;
  readonly slot?: string;
  readonly memory?: string;
  readonly keepAlive?: number;
  readonly json?: boolean;
}

export function guardCommand(): Command {
  const command = new Command('guard').description(
    'compare the places of a party with fences, and check signs of life, until Ctrl+C',
  );
  return withLink(command, 'guard')
    .option('--fences <file>', 'GeoJSON of fences, or demo for the sections of the island')
    .option('--check-in <duration>', 'report members without a sign of life for this time', durationArgument)
    .option('--plan <member=file>', 'plan of a member, like ines=demo:dune-round; repeatable', plansArgument)
    .option(
      '--overdue <duration>',
      'report named points of plans that were not reached this long after their time (default: 10min)',
      durationArgument,
    )
    .option(
      '--slot <share>',
      'share of the members, like 2/4 for the second of four; other guards take the others',
    )
    .option(
      '--memory <folder>',
      'folder for its state, so that it continues where it stopped (default: guard-PARTY-SLOT)',
    )
    .option(
      '--keep-alive <duration>',
      'time between signs of life to the broker (default: 30s)',
      durationArgument,
    )
    .option('--json', 'print one JSON value per alarm')
    .action(async (options: Options) => {
      const { party, json = false, checkIn, keepAlive } = options;
      const slot = options.slot === undefined ? { number: 1, count: 1 } : slotFrom(options.slot);
      const fences = options.fences === undefined ? [] : await readFences(options.fences);
      const plans: Record<string, Plan> = {};
      for (const [member, file] of Object.entries(options.plan ?? {}))
        plans[member] = await readPlan(file, undefined);
      const broker = await brokerOf(options, 'guard');
      const store = await diskGuardStore(options.memory ?? folderOf(party, slot));
      const guard = new PartyGuard({
        party,
        broker,
        fences: sharedFences(fences, { index: fenceIndex() }),
        slot,
        store,
        plans,
        ...(options.overdue !== undefined && { overdueAfter: options.overdue }),
        ...(checkIn !== undefined && { checkIn }),
        ...(keepAlive !== undefined && { keepAlive }),
      });
      guard.onEvent(({ alarm }) => {
        if (json) printJson(alarmJson(alarm));
        else process.stdout.write(`${alarmLine(alarm)}\n`);
      });
      const refused = refusal(guard.$link, broker.name);
      await guard.start();
      const reason = await Promise.race([asked(), refused]);
      const { places, alarms, members } = guard.counts;
      await guard.close();
      if (typeof reason === 'string') throw new InputError('bad-value', reason);
      process.stderr.write(`places ${places}, alarms ${alarms}, members in the party ${members}\n`);
    });
}

/** Prints the stored alarms of a guard. */
export function alarmsCommand(): Command {
  return new Command('alarms')
    .description('print the log of a stopped guard')
    .argument('<folder>', 'folder with the state of the guard')
    .option('--json', 'print one JSON value per alarm')
    .action(async (folder: string, { json = false }: { json?: boolean }) => {
      const store = await diskGuardStore(folder, { create: false });
      for (const alarm of await store.log())
        if (json) printJson(alarmJson(alarm));
        else process.stdout.write(`${alarmLine(alarm)}\n`);
      await store.close();
    });
}

function plansArgument(text: string, before: Readonly<Record<string, string>> = {}): Record<string, string> {
  const at = text.indexOf('=');
  if (at < 1 || at === text.length - 1)
    throw new InvalidArgumentError('it is written like ines=demo:dune-round.');
  return { ...before, [text.slice(0, at)]: text.slice(at + 1) };
}

function folderOf(party: string, { number, count }: Slot): string {
  return `guard-${party}-${number}-${count}`;
}

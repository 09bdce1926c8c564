import { Command } from 'commander';
import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { InputError } from 'aurelian-drift';
import { BUCKETS, divideMemory, type GuardStore } from 'aurelian-drift/presence';
import { diskGuardStore } from '../stores/disk-guard-store.js';
import { printJson } from './json.js';
import { countArgument } from './quantities.js';

interface Options {
  readonly slots: number;
  readonly into: string;
  readonly json?: boolean;
}

/** Divides the states of stopped guards for another number of slots. */
export function divideCommand(): Command {
  return new Command('divide')
    .description('divide the states of stopped guards for another number of slots')
    .argument('<folder...>', 'folders with their states')
    .requiredOption('--slots <count>', 'new number of slots', countArgument)
    .requiredOption(
      '--into <folder>',
      'folder for the new states: a folder for each slot, named by its number',
    )
    .option('--json', 'print JSON')
    .action(async (folders: readonly string[], { slots, into, json = false }: Options) => {
      if (slots > BUCKETS) throw new InputError('bad-value', `--slots is ${BUCKETS} at most, got ${slots}`);
      const open: GuardStore[] = [];
      try {
        for (const folder of folders) open.push(await diskGuardStore(folder, { create: false }));
        await mkdir(into, { recursive: true });
        const made: GuardStore[] = [];
        for (let slot = 1; slot <= slots; slot++) {
          const store = await diskGuardStore(join(into, String(slot)));
          open.push(store);
          made.push(store);
        }
        const members = await divideMemory(open.slice(0, folders.length), made);
        if (json)
          printJson({
            slots: members.map((each, i) => ({
              slot: i + 1,
              folder: join(into, String(i + 1)),
              members: each,
            })),
          });
        else
          for (const [i, each] of members.entries())
            process.stdout.write(
              `slot ${i + 1}/${slots}  ${join(into, String(i + 1))}  ${each} ${each === 1 ? 'member' : 'members'}\n`,
            );
      } finally {
        await Promise.all(open.map((store) => store.close()));
      }
    });
}

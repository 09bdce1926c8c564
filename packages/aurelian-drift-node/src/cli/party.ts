import { Command, Option } from 'commander';
import { RIGHTS } from '../services/broker-rights.js';
import { announceCommand } from './party-announce.js';
import { divideCommand } from './party-divide.js';
import { alarmsCommand, guardCommand } from './party-guard.js';
import { readUsers } from './party-link.js';
import { watchCommand } from './party-watch.js';
import { addCommands } from './subcommands.js';

export function partyCommand(): Command {
  const party = new Command('party').description(
    'share positions with a group over MQTT, show and guard its members',
  );
  addCommands(party, [
    announceCommand,
    watchCommand,
    guardCommand,
    alarmsCommand,
    divideCommand,
    rightsCommand,
  ]);
  return party;
}

/** Prints the configuration of a broker for its users. */
function rightsCommand(): Command {
  return new Command('rights')
    .description('print the rights of the users of a party as the configuration of a broker')
    .argument('<users>', 'JSON of users, or demo for the demo party')
    .addOption(
      new Option('--for <broker>', 'mosquitto: an acl_file; nats: users of nats-server with their passwords')
        .choices(Object.keys(RIGHTS))
        .makeOptionMandatory(),
    )
    .action(async (path: string, { for: broker }: { for: keyof typeof RIGHTS }) => {
      process.stdout.write(RIGHTS[broker](await readUsers(path)));
    });
}

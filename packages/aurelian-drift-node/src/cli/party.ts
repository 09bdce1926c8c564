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
    'share where one is with a group over MQTT, see them, and watch over them',
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
    .description('the rights of a party’s users, in the words of a broker’s configuration')
    .argument('<users>', 'JSON of users; demo for the demo party')
    .addOption(
      new Option('--for <broker>', 'mosquitto: an acl_file; nats: users of nats-server, with their passwords')
        .choices(Object.keys(RIGHTS))
        .makeOptionMandatory(),
    ) // prettier-ignore
    .action(async (path: string, { for: broker }: { for: keyof typeof RIGHTS }) => {
      process.stdout.write(RIGHTS[broker](await readUsers(path)));
    });
}

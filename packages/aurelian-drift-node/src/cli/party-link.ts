import { Option, type Command } from 'commander';
import { readFile } from 'node:fs/promises';
import { InputError, type LiveValue } from 'aurelian-drift';
import { mqttBroker, type Broker, type LinkStatus } from 'aurelian-drift/presence';
import { partyUsersFrom, type PartyUser } from 'aurelian-drift/internal';
import { fromJson } from '../files/json-text.js';
import { readText } from '../files/text-file.js';
import { orDemoParty } from './demo.js';
import { Misuse } from './misuse.js';

/** Options of every command of a party for its broker. */
export interface LinkOptions {
  readonly party: string;
  readonly broker: string;
  readonly user?: string;
  readonly passwordFile?: string;
  readonly ca?: string;
}

/** Address of the stand-in that `serve` starts. */
const BROKER = 'mqtt://localhost:4181';
const PASSWORD = 'AURELIAN_PASSWORD';
/** Seconds within which the broker must answer, for a command that ends by itself. */
const PATIENCE = 30;

export function withLink(command: Command, user: string): Command {
  return command
    .option('--party <id>', 'id of the party', 'vanesk')
    .option(
      '--broker <addresses>',
      'addresses of the broker: mqtt://, mqtts://, ws:// or wss://; several of a cluster are separated by commas',
      BROKER,
    )
    .option('--user <id>', `user name at the broker (default: ${user})`)
    .addOption(
      new Option(
        '--password-file <file>',
        `file whose first line is the password (default: ${PASSWORD}, or the password of the demo party)`,
      ),
    )
    .option('--ca <file>', 'additional trusted certificates in PEM');
}

/** The broker, with the user's credentials. @param id user id where none is given. */
export async function brokerOf(
  { broker, user, passwordFile, ca, party }: LinkOptions,
  id: string,
): Promise<Broker> {
  const username = user ?? id;
  const password =
    passwordFile === undefined
      ? (process.env[PASSWORD] ?? (await demoPassword(party, username)))
      : (await readFile(passwordFile, 'utf8')).split(/\r?\n/)[0];
  if (password === undefined || password === '')
    throw new Misuse(`there is no password for ${username}: give --password-file, or set ${PASSWORD}`);
  return mqttBroker(broker.split(','), {
    username,
    password,
    ...(ca !== undefined && { ca: await readFile(ca, 'utf8') }),
  });
}

/** The users of a file, or of the demo party. */
export async function readUsers(path: string): Promise<readonly PartyUser[]> {
  const { text, source } = await readText(orDemoParty(path));
  return fromJson(text, source, partyUsersFrom);
}

async function demoPassword(party: string, id: string): Promise<string | undefined> {
  const users = await readUsers('demo');
  return users.find((user) => user.party === party && user.id === id)?.password;
}

/**
 * Reports the status of the connection on standard error, each change once. Resolves with the reason when the broker
 * refuses.
 */
export function refusal($link: LiveValue<LinkStatus>, broker: string): Promise<string> {
  let said = '';
  return new Promise((done) => {
    $link.listen((state) => {
      const text =
        state.state === 'down'
          ? `${state.reason}; trying again`
          : state.state === 'up'
            ? `connected to ${broker}`
            : '';
      if (text !== '' && text !== said) process.stderr.write(`${text}\n`);
      said = text;
      if (state.state === 'refused') done(state.reason);
    });
  });
}

/** Resolves at the first connection. @throws {InputError} when there is none for half a minute. */
export function connected($link: LiveValue<LinkStatus>, broker: string): Promise<void> {
  return new Promise((done, fail) => {
    const tooLong = setTimeout(() => {
      off();
      fail(new InputError('bad-value', `there was no connection to ${broker} in ${PATIENCE} s`));
    }, PATIENCE * 1000);
    const off = $link.listen(({ state }) => {
      if (state !== 'up') return;
      clearTimeout(tooLong);
      off();
      done();
    });
  });
}

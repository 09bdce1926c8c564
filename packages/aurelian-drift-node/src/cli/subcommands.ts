import type { Command } from 'commander';
import { closest } from 'aurelian-drift/internal';

/** Adds commands that all behave alike: errors are thrown, and a misuse says where help is. */
export function addCommands(parent: Command, commands: readonly (() => Command)[]): void {
  for (const command of commands)
    parent.addCommand(
      misspeltFirst(command())
        .exitOverride()
        .helpOption('-h, --help', 'print help')
        .showHelpAfterError('(--help tells more)'),
    );
}

/** Says of an option that is misspelt what it may be, before it says of one that is required that it is missing. */
function misspeltFirst(command: Command): Command {
  const required = command.options.filter(({ mandatory }) => mandatory);
  for (const option of required) option.mandatory = false;
  return command.hook('preAction', (_, called) => {
    const missing = required.find((option) => called.getOptionValue(option.attributeName()) === undefined);
    if (missing === undefined) return;
    called.error(`error: required option '${missing.flags}' not specified`, { code: 'commander.missingMandatoryOptionValue' }); // prettier-ignore
  });
}

/**
 * Refuses a word that stands for a command and is none. The parser itself would pass it over when an option like --help
 * comes after it.
 *
 * @throws {CommanderError} which the process ends with.
 */
export function refuseUnknownCommand(commands: Command, words: readonly string[]): void {
  let at = commands;
  for (const word of words) {
    if (at.commands.length === 0 || word.startsWith('-')) return;
    const names = at.commands.flatMap((each) => [each.name(), ...each.aliases()]);
    const next = at.commands.find((each) => each.name() === word || each.aliases().includes(word));
    if (next === undefined && word !== 'help') {
      const near = closest(word, names);
      // In the parser's own words, which it says where it notices.
      const hint = near === undefined ? `(Commands: ${names.join(', ')})` : `(Did you mean ${near}?)`;
      at.error(`error: unknown command '${word.slice(0, 40)}'\n${hint}`, {
        code: 'commander.unknownCommand',
      });
    }
    at = next ?? at;
  }
}

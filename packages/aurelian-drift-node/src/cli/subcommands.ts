import type { Command } from 'commander';
import { closest } from 'aurelian-drift/internal';

/** Adds subcommands with the same behaviour: errors are thrown, and a misuse states where help is. */
export function addCommands(parent: Command, commands: readonly (() => Command)[]): void {
  for (const command of commands)
    parent.addCommand(
      misspeltFirst(command())
        .exitOverride()
        .helpOption('-h, --help', 'print help')
        .showHelpAfterError('(--help tells more)'),
    );
}

/** Reports a misspelt option before a missing one. */
function misspeltFirst(command: Command): Command {
  const required = command.options.filter(({ mandatory }) => mandatory);
  for (const option of required) option.mandatory = false;
  return command.hook('preAction', (_, called) => {
    const missing = required.find((option) => called.getOptionValue(option.attributeName()) === undefined);
    if (missing === undefined) return;
    called.error(`error: required option '${missing.flags}' not specified`, {
      code: 'commander.missingMandatoryOptionValue',
    });
  });
}

/**
 * Refuses an unknown subcommand. The parser itself would ignore it before an option like --help.
 *
 * @throws {CommanderError} with which the process ends.
 */
export function refuseUnknownCommand(commands: Command, words: readonly string[]): void {
  let at = commands;
  for (const word of words) {
    if (at.commands.length === 0 || word.startsWith('-')) return;
    const names = at.commands.flatMap((each) => [each.name(), ...each.aliases()]);
    const next = at.commands.find((each) => each.name() === word || each.aliases().includes(word));
    if (next === undefined && word !== 'help') {
      const near = closest(word, names);
      // In the words of the parser.
      const hint = near === undefined ? `(Commands: ${names.join(', ')})` : `(Did you mean ${near}?)`;
      at.error(`error: unknown command '${word.slice(0, 40)}'\n${hint}`, {
        code: 'commander.unknownCommand',
      });
    }
    at = next ?? at;
  }
}

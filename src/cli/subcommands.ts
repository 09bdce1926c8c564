import type { Command } from 'commander';

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

import type { Command } from 'commander';

/** Adds commands that all behave alike: errors are thrown, and a misuse says where help is. */
export function addCommands(parent: Command, commands: readonly (() => Command)[]): void {
  for (const command of commands)
    parent.addCommand(
      command()
        .exitOverride()
        .helpOption('-h, --help', 'print help')
        .showHelpAfterError('(--help tells more)'),
    );
}

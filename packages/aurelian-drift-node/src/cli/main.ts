#!/usr/bin/env node
import { CommanderError } from 'commander';
import { InputError } from 'aurelian-drift';
import { ServiceError } from 'aurelian-drift/places';
import { NoWayError } from 'aurelian-drift/ways';
import { program } from './program.js';
import { refuseUnknownCommand } from './subcommands.js';
import { Misuse } from './misuse.js';

// A position that starts with a hyphen would be taken for an option; a true minus sign is not.
const words = process.argv
  .slice(2)
  .map((word) => (/^-\d[\d.]*,/.test(word) ? `\u2212${word.slice(1)}` : word));

// The reader of our output may stop early, as `head` does: that is not an error.
process.stdout.on('error', (error: NodeJS.ErrnoException) => process.exit(error.code === 'EPIPE' ? 0 : 1));

try {
  const commands = await program(words[0]);
  refuseUnknownCommand(commands, words);
  await commands.parseAsync(words, { from: 'user' });
} catch (error) {
  process.exitCode = exitCodeOf(error);
}

/** 0 done, 1 failed, 2 misused. */
function exitCodeOf(error: unknown): number {
  if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
  if (error instanceof Misuse) {
    process.stderr.write(`aurelian: ${error.message}\n`);
    return 2;
  }
  if (error instanceof InputError) {
    process.stderr.write(`aurelian: ${oneLine(error.message)}\n`);
    return 1;
  }
  if (error instanceof ServiceError || error instanceof NoWayError) {
    process.stderr.write(`aurelian: ${oneLine(error.message)}\n`);
    return 1;
  }
  const failure = error as NodeJS.ErrnoException;
  if (failure.code === 'ENOENT')
    process.stderr.write(`aurelian: ${failure.path ?? ''}: there is no such file\n`);
  else if (failure.code === 'EISDIR')
    process.stderr.write('aurelian: a folder was given where a file is due\n');
  else if (typeof failure.code === 'string' && failure.syscall !== undefined)
    process.stderr.write(`aurelian: ${failure.message}\n`);
  else throw error;
  return 1;
}

/** Text from files may hold line ends or control characters; an error stays on one line. */
function oneLine(text: string): string {
  // eslint-disable-next-line no-control-regex -- the point is to find control characters
  return text.replaceAll(/[\u0000-\u001F\u007F-\u009F]+/g, ' ');
}

import { InputError } from 'aurelian-drift';

/**
 * What is thrown when a new file could not be made: that it is there already, with what to do, or the failure itself.
 */
export function fileThere(error: unknown, path: string, remedy: string): unknown {
  if ((error as NodeJS.ErrnoException).code !== 'EEXIST') return error;
  return new InputError('bad-value', 'there is a file of that name already', { source: path }, remedy);
}

import { InputError } from 'aurelian-drift';

/** Error for a new file that could not be made: it exists already, with the remedy, or the original error. */
export function fileThere(error: unknown, path: string, remedy: string): unknown {
  if ((error as NodeJS.ErrnoException).code !== 'EEXIST') return error;
  return new InputError('bad-value', 'a file with this name exists already', { source: path }, remedy);
}

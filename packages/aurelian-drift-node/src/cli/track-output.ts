import { InputError, trackWriter, type TrackContent, type TrackWriter } from 'aurelian-drift';
import { FORMATS, formatOfEnding, deliverTracks } from 'aurelian-drift/internal';
import { FileOutput } from '../files/file-output.js';
import { Misuse } from './misuse.js';

export interface WriteOptions {
  /** Write over an existing file. */
  readonly force?: boolean;
  /** Refuse content that the format cannot hold, instead of leaving it out. */
  readonly strict?: boolean;
}

const AND = new Intl.ListFormat('en-GB');
/** Names of the formats for people. */
export const FORMAT_TITLES = new Intl.ListFormat('en-GB', { type: 'disjunction' }).format(
  FORMATS.map(({ title }) => title),
);
const ENDINGS = AND.format(FORMATS.map(({ endings }) => `.${endings[0] ?? ''}`));

/** Checks that the extension of a file states a format. */
export function checkEnding(path: string): void {
  if (formatOfEnding(path) === undefined)
    throw new Misuse(`${path}: the ending says the format; ${ENDINGS} are known`);
}

/**
 * Writes a new file of tracks. `report` gets the writer. A failure leaves no file behind.
 *
 * @throws {InputError} when the file exists: recorded data is never overwritten without a request.
 */
export async function writeTracksAs(
  path: string,
  { force = false, strict = false }: WriteOptions,
  report: (writer: TrackWriter) => unknown,
  content?: TrackContent,
): Promise<void> {
  const output = new FileOutput(path, { force });
  try {
    const writer = trackWriter(formatOfEnding(path) ?? 'gpx', output, content);
    await report(writer);
    writer.end();
    if (writer.leftOut.length > 0) {
      const reason = `${AND.format(writer.leftOut)} left out: the format has no place for them`;
      if (strict) throw new InputError('bad-value', reason, { source: path });
      process.stderr.write(`aurelian: ${path}: ${reason}\n`);
    }
    output.end();
  } catch (error) {
    output.abandon();
    throw error;
  }
}

/** Writes content in memory to a new file; as CSV with only the columns that have values. */
export async function writeTracks(path: string, content: TrackContent, options: WriteOptions): Promise<void> {
  await writeTracksAs(path, options, (writer) => deliverTracks(content, writer), content);
}

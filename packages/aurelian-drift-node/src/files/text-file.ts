import { createReadStream } from 'node:fs';
import { TextDecoder } from 'node:util';
import { InputError, type Note } from 'aurelian-drift';
import { emptyText } from 'aurelian-drift/internal';

/** Number of bytes in which the encoding is searched. */
const BEGINNING = 1024;

/** Name of a file in errors. */
export function sourceName(path: string): string {
  return path === '-' ? 'standard input' : path;
}

/** Bytes of a file, or of standard input for `-`, and its name in errors. */
export function bytesOf(path: string): { bytes: AsyncIterable<Uint8Array>; source: string } {
  const bytes = path === '-' ? process.stdin : createReadStream(path, { highWaterMark: 1 << 18 });
  return { bytes, source: sourceName(path) };
}

/** Reads a whole text file, without its byte order mark. @throws {InputError} when it is empty. */
export async function readText(path: string): Promise<{ text: string; source: string }> {
  const { bytes, source } = bytesOf(path);
  const texts: string[] = [];
  for await (const text of decoded(bytes, source, () => undefined)) texts.push(text);
  const text = texts.join('');
  if (text.trim() === '') throw emptyText(source);
  return { text, source };
}

/**
 * Decodes bytes as they arrive, in the encoding of a byte order mark or an XML declaration, otherwise UTF-8. Invalid
 * UTF-8 is read as Windows-1252, in which every byte is a character, with a note that has the line.
 *
 * @throws {InputError} for an unknown encoding, and for an archive.
 */
export async function* decoded(
  bytes: AsyncIterable<Uint8Array>,
  source: string,
  report: (note: Note) => void,
): AsyncGenerator<string> {
  let decoder: TextDecoder | undefined;
  let line = 1;
  let waiting: Uint8Array = new Uint8Array();
  for await (const chunk of bytes) {
    if (decoder === undefined) {
      waiting = Buffer.concat([waiting, chunk]);
      if (waiting.length < BEGINNING) continue;
      decoder = decoderOf(waiting, source);
    } else waiting = chunk;
    const text = decode(waiting, true);
    waiting = new Uint8Array();
    line += lineEnds(text);
    yield text;
  }
  decoder ??= decoderOf(waiting, source);
  yield decode(waiting, false);

  function decode(part: Uint8Array, stream: boolean): string {
    try {
      return (decoder as TextDecoder).decode(part, { stream });
    } catch {
      report({ line, text: 'the text is not UTF-8; read as Windows-1252' });
      decoder = new TextDecoder('windows-1252');
      return decoder.decode(part, { stream });
    }
  }
}

function decoderOf(start: Uint8Array, source: string): TextDecoder {
  const [a, b, c] = start;
  if (a === 0x50 && b === 0x4b)
    throw new InputError('not-this-format', 'this is an archive (zip); unpack it first', { source, line: 1 });
  if (a === 0x1f && b === 0x8b)
    throw new InputError('not-this-format', 'this is compressed (gzip); unpack it first', {
      source,
      line: 1,
    });
  if (a === 0xff && b === 0xfe) return new TextDecoder('utf-16le');
  if (a === 0xfe && b === 0xff) return new TextDecoder('utf-16be');
  if (a === 0x3c && b === 0) return new TextDecoder('utf-16le');
  if (a === 0 && b === 0x3c) return new TextDecoder('utf-16be');
  if (a === 0xef && b === 0xbb && c === 0xbf) return new TextDecoder('utf-8', { fatal: true });
  const declaration = /^\s*<\?xml[^>]*?encoding\s*=\s*["']([\w.:-]+)["']/.exec(
    Buffer.from(start.subarray(0, BEGINNING)).toString('latin1'),
  );
  const label = declaration?.[1] ?? 'utf-8';
  try {
    return new TextDecoder(label, { fatal: /^utf-?8$/i.test(label) });
  } catch {
    throw new InputError('not-this-format', `the encoding "${label}" is unknown`, { source, line: 1 });
  }
}

function lineEnds(text: string): number {
  let count = 0;
  for (let i = text.indexOf('\n'); i >= 0; i = text.indexOf('\n', i + 1)) count++;
  return count;
}

import { closeSync, mkdtempSync, openSync, readSync, renameSync, rmSync, writeSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Output } from 'aurelian-drift';
import { fileThere } from './file-there.js';

/** Characters gathered before a write. */
const BUFFER = 1 << 18;
/** Bytes copied at a time. */
const COPY = 1 << 20;

/** Text gathered, and written to a file a good deal at a time. */
class Gathering {
  readonly #open: () => number;
  #file: number | undefined;
  #texts: string[] = [];
  #length = 0;

  constructor(open: () => number) {
    this.#open = open;
  }

  /** Text that is in no file yet. */
  get text(): string {
    return this.#texts.join('');
  }

  get file(): number | undefined {
    return this.#file;
  }

  add(text: string): void {
    this.#texts.push(text);
    this.#length += text.length;
    if (this.#length >= BUFFER) this.flush();
  }

  /** Adds all of another file. */
  copy(file: number): void {
    this.flush();
    const target = (this.#file ??= this.#open());
    const bytes = Buffer.alloc(COPY);
    let position = 0;
    for (;;) {
      const count = readSync(file, bytes, 0, COPY, position);
      if (count === 0) return;
      writeAll(target, bytes.subarray(0, count));
      position += count;
    }
  }

  flush(): void {
    if (this.#length === 0) return;
    this.#file ??= this.#open();
    writeAll(this.#file, Buffer.from(this.text));
    this.#texts = [];
    this.#length = 0;
  }
}

/**
 * A file that is written from beginning to end, and parts kept aside in files beside it, so that memory stays flat
 * whatever is written.
 *
 * With `force` a file that is there stays as it is until `end`. `abandon` leaves nothing behind.
 *
 * @throws {InputError} when the file is there and not to be written over.
 */
export class FileOutput implements Output {
  readonly #path: string;
  readonly #written: string;
  readonly #main: Gathering;
  readonly #file: number;
  readonly #parts = new Map<string, Gathering>();
  /** Parts that were, so that no two have a file of the same name. */
  #dropped = 0;
  #folder: string | undefined;

  constructor(path: string, { force = false }: { readonly force?: boolean } = {}) {
    this.#path = path;
    this.#written = force ? `${path}.${process.pid}.part` : path;
    try {
      this.#file = openSync(this.#written, 'wx');
    } catch (error) {
      throw fileThere(error, path, 'Choose another name, or give --force to write over it.');
    }
    this.#main = new Gathering(() => this.#file);
  }

  write(text: string): void {
    this.#main.add(text);
  }

  aside(part: string, text: string): void {
    this.#part(part).add(text);
  }

  recall(part: string, into?: string): void {
    const gathering = this.#parts.get(part);
    if (gathering === undefined) return;
    const target = into === undefined ? this.#main : this.#part(into);
    if (gathering.file !== undefined) target.copy(gathering.file);
    target.add(gathering.text);
    this.drop(part);
  }

  #part(name: string): Gathering {
    let gathering = this.#parts.get(name);
    if (gathering === undefined) {
      const number = this.#parts.size + this.#dropped;
      gathering = new Gathering(() => {
        this.#folder ??= mkdtempSync(join(dirname(this.#path), '.aside-'));
        return openSync(join(this.#folder, String(number)), 'w+');
      });
      this.#parts.set(name, gathering);
    }
    return gathering;
  }

  drop(part: string): void {
    const file = this.#parts.get(part)?.file;
    if (file !== undefined) closeSync(file);
    if (this.#parts.delete(part)) this.#dropped++;
  }

  /** All is written: the file is there. */
  end(): void {
    this.#main.flush();
    this.#tidy();
    if (this.#written !== this.#path) renameSync(this.#written, this.#path);
  }

  /** Nothing is to be kept. */
  abandon(): void {
    this.#tidy();
    rmSync(this.#written, { force: true });
  }

  #tidy(): void {
    for (const part of [...this.#parts.keys()]) this.drop(part);
    if (this.#folder !== undefined) rmSync(this.#folder, { recursive: true, force: true });
    closeSync(this.#file);
  }
}

function writeAll(file: number, bytes: Uint8Array): void {
  let done = 0;
  while (done < bytes.length) done += writeSync(file, bytes, done);
}

import { closeSync, mkdtempSync, openSync, readSync, renameSync, rmSync, writeSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Output } from 'aurelian-drift';
import { fileThere } from './file-there.js';

/** Characters collected before a write. */
const BUFFER = 1 << 18;
/** Bytes copied at a time. */
const COPY = 1 << 20;

/** Collects text, and writes it to a file in large pieces. */
class Gathering {
  readonly #open: () => number;
  #file: number | undefined;
  #texts: string[] = [];
  #length = 0;

  constructor(open: () => number) {
    this.#open = open;
  }

  /** Text that is not in a file yet. */
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

  /** Appends another file. */
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
 * A file that is written from start to end, with parts kept aside in files beside it, so that the memory is constant.
 *
 * With `force` an existing file stays unchanged until `end`. `abandon` leaves nothing behind.
 *
 * @throws {InputError} when the file exists and must not be overwritten.
 */
export class FileOutput implements Output {
  readonly #path: string;
  readonly #written: string;
  readonly #main: Gathering;
  readonly #file: number;
  readonly #parts = new Map<string, Gathering>();
  /** Number of parts so far, so that no two have a file of the same name. */
  #dropped = 0;
  #folder: string | undefined;

  constructor(path: string, { force = false }: { readonly force?: boolean } = {}) {
    this.#path = path;
    this.#written = force ? `${path}.${process.pid}.part` : path;
    try {
      this.#file = openSync(this.#written, 'wx');
    } catch (error) {
      throw fileThere(error, path, 'Choose another name, or give --force to overwrite it.');
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

  /** Everything is written: puts the file in place. */
  end(): void {
    this.#main.flush();
    this.#tidy();
    if (this.#written !== this.#path) renameSync(this.#written, this.#path);
  }

  /** Removes everything. */
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

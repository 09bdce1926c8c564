import { ClassicLevel } from 'classic-level';
import { readdir, stat, statfs } from 'node:fs/promises';
import { join } from 'node:path';
import {
  ClosedError,
  TrailInUseError,
  type AbortSignalLike,
  type TrailStore,
  type Warn,
} from 'aurelian-drift';
import { consoleWarn, shelfStore, type Shelf } from 'aurelian-drift/internal';

/** Options of `diskStore`. */
export interface DiskStoreOptions {
  /** Wait for the disk with every fix: stored data then also survives a loss of power. Default false. */
  readonly durable?: boolean;
  /** Receives messages for the developer. Default: the console. */
  readonly warn?: Warn;
  /** Closes it when it aborts. */
  readonly signal?: AbortSignalLike;
}

/** Bytes that opening a database writes in addition to its log. */
const ROOM = 200_000;
/** Digits of a record's number in its key, so that keys sort by number. */
const DIGITS = 10;
/** After every key of a trail: greater than any digit. */
const AFTER = '~';

/**
 * A store of trails in a folder (LevelDB), which only this process can use until the store is closed. Stored data
 * survives kill -9 of the process; with `durable` also a loss of power.
 *
 * @throws {TrailInUseError} at the first call, when another process has the folder open.
 */
export function diskStore(
  folder: string,
  { durable = false, warn = consoleWarn, signal }: DiskStoreOptions = {},
): TrailStore {
  return shelfStore(new DiskShelf(folder, durable), { warn, signal });
}

type Database = ClassicLevel<string, Uint8Array>;

class DiskShelf implements Shelf {
  readonly #folder: string;
  readonly #durable: boolean;
  readonly #claims = new Set<string>();
  #open: Promise<Database> | undefined;
  #closed = false;
  /** Size of the last write. */
  #failure: Error | undefined;

  constructor(folder: string, durable: boolean) {
    this.#folder = folder;
    this.#durable = durable;
  }

  async heads() {
    const level = await this.#level();
    const found = [];
    for await (const [key, value] of level.iterator({ gt: 'head/', lt: `head/${AFTER}` }))
      found.push({ id: key.slice('head/'.length), head: new TextDecoder().decode(value) });
    return found;
  }

  async head(id: string) {
    const value = await (await this.#level()).get(`head/${id}`);
    return value === undefined ? undefined : new TextDecoder().decode(value);
  }

  async records(id: string) {
    const level = await this.#level();
    const start = `record/${id}/`;
    const found = [];
    for await (const [key, bytes] of level.iterator({ gt: start, lt: start + AFTER }))
      found.push({ number: Number(key.slice(start.length)), bytes });
    return found;
  }

  async write(...[id, head, records]: Parameters<Shelf['write']>) {
    await this.#recover();
    const level = await this.#level();
    try {
      await level.batch(
        [
          { type: 'put', key: `head/${id}`, value: new TextEncoder().encode(head) },
          ...records.map(({ number, bytes }) => ({
            type: 'put' as const,
            key: recordKey(id, number),
            value: bytes,
          })),
        ],
        { sync: this.#durable },
      );
    } catch (error) {
      this.#failure = error as Error;
      throw error;
    }
  }

  /**
   * After a failed write, as on a full disk, the database must be opened again before the next write; until then it can
   * be read. It is opened again only when there is space for what opening writes, because otherwise it could not even
   * be read.
   */
  async #recover(): Promise<void> {
    if (this.#failure === undefined) return;
    const { bavail, bsize } = await statfs(this.#folder);
    const logs = (await readdir(this.#folder)).filter((name) => name.endsWith('.log'));
    const sizes = await Promise.all(logs.map(async (name) => (await stat(join(this.#folder, name))).size));
    const needed = sizes.reduce((sum, size) => sum + size, ROOM);
    if (bavail * bsize < needed) throw this.#failure;
    await this.#shut();
    await this.#level();
    this.#failure = undefined;
  }

  async setAside(id: string, numbers: readonly number[]) {
    const level = await this.#level();
    for (const number of numbers) {
      const bytes = await level.get(recordKey(id, number));
      if (bytes === undefined) continue;
      await level.batch([
        { type: 'put', key: `aside/${id}/${number}`, value: bytes },
        { type: 'del', key: recordKey(id, number) },
      ]);
    }
  }

  async remove(id: string) {
    const level = await this.#level();
    await level.del(`head/${id}`, { sync: this.#durable });
    for (const kind of ['record', 'aside'])
      await level.clear({ gt: `${kind}/${id}/`, lt: `${kind}/${id}/${AFTER}` });
  }

  async erase() {
    const level = await this.#level();
    await level.clear();
    // Cleared data is still in the files until they are rewritten.
    await level.compactRange('', AFTER);
  }

  claim(id: string) {
    if (this.#claims.has(id)) return Promise.resolve(undefined);
    this.#claims.add(id);
    return Promise.resolve(() => void this.#claims.delete(id));
  }

  close() {
    this.#closed = true;
    return this.#shut();
  }

  async #shut() {
    const open = this.#open;
    this.#open = undefined;
    await (await open?.catch(() => undefined))?.close();
  }

  /** Opens the database at the first call, and again after it was shut. */
  #level(): Promise<Database> {
    if (this.#closed) return Promise.reject(new ClosedError('the store'));
    this.#open ??= opened(this.#folder).catch((error: unknown) => {
      this.#open = undefined;
      throw error;
    });
    return this.#open;
  }
}

async function opened(folder: string): Promise<Database> {
  const level = new ClassicLevel<string, Uint8Array>(folder, { keyEncoding: 'utf8', valueEncoding: 'view' });
  try {
    await level.open();
    return level;
  } catch (error) {
    const cause = (error as { cause?: { code?: string } }).cause;
    throw cause?.code === 'LEVEL_LOCKED' ? new TrailInUseError(folder) : error;
  }
}

function recordKey(id: string, number: number): string {
  return `record/${id}/${String(number).padStart(DIGITS, '0')}`;
}

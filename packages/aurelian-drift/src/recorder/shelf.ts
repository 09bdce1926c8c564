/** Data of a trail beside its fixes. */
export interface TrailHead {
  readonly id: string;
  readonly name?: string;
  readonly description?: string;
  /** Number of records so far: the number of the next one. */
  readonly records: number;
  readonly fixes: number;
  /** Times of the first and the last fix, milliseconds since 1970 UTC. */
  readonly start?: number;
  readonly end?: number;
  /** Distance in metres, as in the summary of the trail. */
  readonly distance: number;
  readonly finished: boolean;
}

/** A numbered record of a trail. */
export interface ShelfRecord {
  readonly number: number;
  readonly bytes: Uint8Array;
}

/**
 * The storage of a store: the only part that differs between platforms. A head is a text, or whatever is stored in its
 * place, which may be damaged or of another version.
 */
export interface Shelf {
  heads(): Promise<readonly { readonly id: string; readonly head: unknown }[]>;
  head(id: string): Promise<unknown>;
  /** Records of the trail, in the order of their numbers. */
  records(id: string): Promise<readonly ShelfRecord[]>;
  /**
   * Writes the head of a trail together with records, all or nothing. Resolves when they survive the end of the
   * process.
   */
  write(id: string, head: string, records: readonly ShelfRecord[]): Promise<void>;
  /** Moves records of a trail to a place apart. */
  setAside(id: string, numbers: readonly number[]): Promise<void>;
  remove(id: string): Promise<void>;
  erase(): Promise<void>;
  /** Closes the storage. */
  close(): Promise<void>;
  /** The right to write a trail, until the returned function is called; `undefined` when another writer has it. */
  claim(id: string): Promise<(() => void) | undefined>;
}

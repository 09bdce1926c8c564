/** What a store keeps of a trail beside its fixes. */
export interface TrailHead {
  readonly id: string;
  readonly name?: string;
  readonly description?: string;
  /** How many records it has had: the number of the next. */
  readonly records: number;
  readonly fixes: number;
  /** Milliseconds since 1970 UTC, of the first and the last fix. */
  readonly start?: number;
  readonly end?: number;
  /** Metres, as in the trail's summary. */
  readonly distance: number;
  readonly finished: boolean;
}

/** A record of a trail, by its number. */
export interface ShelfRecord {
  readonly number: number;
  readonly bytes: Uint8Array;
}

/**
 * Where a store keeps what it keeps: the one part that differs from platform to platform. A head is a
 * text, or whatever is found in its place: perhaps damaged, perhaps of another version.
 */
export interface Shelf {
  heads(): Promise<readonly { readonly id: string; readonly head: unknown }[]>;
  head(id: string): Promise<unknown>;
  /** The records of a trail in the order of their numbers. */
  records(id: string): Promise<readonly ShelfRecord[]>;
  /**
   * Puts the head of a trail, and records with it, all of it or nothing; resolves once it survives the end of the
   * process.
   */
  write(id: string, head: string, records: readonly ShelfRecord[]): Promise<void>;
  /** Takes records out of a trail's and keeps them apart. */
  setAside(id: string, numbers: readonly number[]): Promise<void>;
  remove(id: string): Promise<void>;
  erase(): Promise<void>;
  /** Lets go of what it holds open. */
  close(): Promise<void>;
  /** The right to write a trail, until what is returned is called; `undefined` when somebody else has it. */
  claim(id: string): Promise<(() => void) | undefined>;
}

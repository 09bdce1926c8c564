/** How much the browser lets this origin store, and whether it may erase it by itself. */
export interface StorageRoom {
  /**
   * `kept`: only the user erases it. `erasable`: the browser may erase all of it when the disk is nearly full, some
   * browsers also after a week without a visit. `unknown`: the browser does not say.
   */
  readonly state: 'kept' | 'erasable' | 'unknown';
  /** Bytes that the origin uses, and bytes that it may use further; absent where the browser does not say. */
  readonly used?: number;
  readonly free?: number;
}

/** The room for what the origin stores. Asks nobody, and never rejects. */
export async function storageRoom(): Promise<StorageRoom> {
  return roomOf((storage) => storage.persisted());
}

/**
 * Asks the browser to keep what the origin stores, also when the disk is nearly full. Some browsers ask the user,
 * others decide by themselves, the sooner the more the page is used or when it is installed. Call it upon an act of the user,
 * when there is something to lose: the start of a recording. Never rejects.
 */
export async function keepStored(): Promise<StorageRoom> {
  return roomOf((storage) => storage.persist());
}

async function roomOf(ask: (storage: StorageManager) => Promise<boolean>): Promise<StorageRoom> {
  const storage = (globalThis.navigator as Partial<Navigator> | undefined)?.storage as
    Partial<StorageManager> | undefined;
  const [kept, estimate] = await Promise.all([
    // Older browsers lack these calls, and some reject in a private window.
    Promise.resolve()
      .then(() => ask(storage as StorageManager))
      .catch(() => undefined),
    Promise.resolve()
      .then(() => (storage as StorageManager).estimate())
      .catch(() => undefined),
  ]);
  const { usage, quota } = estimate ?? {};
  return {
    state: kept === undefined ? 'unknown' : kept ? 'kept' : 'erasable',
    ...(usage !== undefined && { used: usage }),
    ...(usage !== undefined && quota !== undefined && { free: Math.max(0, quota - usage) }),
  };
}

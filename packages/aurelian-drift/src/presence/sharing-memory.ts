import { KEPT_NAMES } from '../core/check/kept-names.js';
import { keptText, readKept, type KeptKind } from '../core/check/kept-text.js';

/** Stored fact that sharing is on, for the next run of the app. */
export interface SharedBefore {
  readonly party: string;
  readonly member: string;
  /** When it was switched on, milliseconds since 1970 UTC. */
  readonly since: number;
}

/** Storage of this fact. */
export interface SharingMemory {
  read(): SharedBefore | undefined;
  write(shared: SharedBefore | undefined): void;
}

const KEY = KEPT_NAMES.sharing;
const KIND: KeptKind = { kind: 'sharing', version: 1, what: 'the memory of sharing' };

function layoutOf({ party, member, since }: SharedBefore): string {
  return keptText(KIND, { party, member, since });
}

/** Stores it in the storage of a page; where that is blocked, for the life of the page. */
export function pageMemory(
  storage: () => Pick<Storage, 'getItem' | 'setItem' | 'removeItem'> = () => localStorage,
): SharingMemory {
  return {
    read() {
      try {
        const text = storage().getItem(KEY);
        if (text === null) return undefined;
        const { party, member, since } = readKept(KIND, text).value as Partial<SharedBefore>;
        if (typeof party !== 'string' || typeof member !== 'string' || typeof since !== 'number')
          return undefined;
        return { party, member, since };
      } catch {
        return undefined; // blocked or damaged: nothing is known
      }
    },
    write(shared) {
      try {
        if (shared === undefined) storage().removeItem(KEY);
        else storage().setItem(KEY, layoutOf(shared));
      } catch {
        // Barred: the next start does not know of this one, and others see that we vanished.
      }
    },
  };
}

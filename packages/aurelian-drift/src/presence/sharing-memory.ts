import { keptText, readKept, type KeptKind } from '../core/check/kept-text.js';

/** That sharing is on, as it is remembered from one run of the app to the next. */
export interface SharedBefore {
  readonly party: string;
  readonly member: string;
  /** When it was switched on, milliseconds since 1970 UTC. */
  readonly since: number;
}

/** Where it is remembered. */
export interface SharingMemory {
  read(): SharedBefore | undefined;
  write(shared: SharedBefore | undefined): void;
}

const KEY = 'aurelian-drift/sharing';
const KIND: KeptKind = { kind: 'sharing', version: 1, what: 'the memory of sharing' };

function layoutOf({ party, member, since }: SharedBefore): string {
  return keptText(KIND, { party, member, since });
}

/** Remembers in the storage of a page; where that is barred, for as long as the page lives. */
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
        return undefined; // barred, or damaged: nothing is known of before
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

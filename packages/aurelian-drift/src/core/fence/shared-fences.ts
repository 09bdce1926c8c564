import { InputError } from '../check/input-error.js';
import { checkOptions } from '../check/options.js';
import type { Position } from '../geodesy/position.js';
import type { Fence } from './fence.js';
import { Field, type FenceField, type Plot } from './field.js';
import { finderOf, type Around, type FenceSearch, type FenceIndex } from './fence-search.js';

/** Fences that many watches share. They cannot be changed: a watch of them adds and removes none. */
export interface SharedFences {
  /** Number of fences. */
  readonly size: number;
}

/**
 * Fences for the watches of many users: geometry and index are made once, and a watch stores only the fences near its
 * user.
 *
 * @throws {InputError} for an impossible fence, for two fences with the same id, and for a misspelt option.
 */
export function sharedFences(
  fences: Iterable<Fence>,
  options: {
    /** As for a watch: `fenceIndex()` for thousands. Default: all fences are searched. */
    readonly index?: FenceIndex;
  } = {},
): SharedFences {
  checkOptions('sharedFences', options, {
    index: (value) => (value instanceof Object ? undefined : 'must be fenceIndex()'),
  });
  return new SharedField([...fences], finderOf(options.index));
}

/** Whether a value was made by `sharedFences()`. */
export function areShared(fences: unknown): fences is SharedFences {
  return fences instanceof SharedField;
}

class SharedField implements SharedFences, FenceField {
  readonly #field: Field;
  readonly timed: FenceField['timed'];
  readonly size: number;

  constructor(fences: readonly Fence[], index: FenceSearch<Plot> | undefined) {
    this.#field = new Field(fences, index);
    this.timed = this.#field.timed;
    this.size = fences.length;
  }

  plot(id: string): Plot | undefined {
    return this.#field.plot(id);
  }

  near(at: Position, metres: number): readonly Plot[] {
    return this.#field.near(at, metres);
  }

  around(): Around<Plot> {
    return this.#field.around();
  }

  add(): never {
    throw new InputError(
      'bad-value',
      'these fences are shared with other watches, and cannot be changed',
      {},
      'Give this watch fences of its own',
    );
  }

  remove(): never {
    return this.add();
  }
}

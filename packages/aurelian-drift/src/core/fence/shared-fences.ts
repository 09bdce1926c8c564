import { InputError } from '../check/input-error.js';
import { checkOptions } from '../check/options.js';
import type { Position } from '../geodesy/position.js';
import type { Fence } from './fence.js';
import { Field, type FenceField, type Plot } from './field.js';
import { finderOf, type Around, type FenceSearch, type FenceIndex } from './fence-search.js';

/** Fences that many watches look at. They stay as they are: a watch of them adds and removes none. */
export interface SharedFences {
  /** How many there are. */
  readonly size: number;
}

/**
 * Fences for the watches of many users: geometry and index are made once, and a watch remembers only those that its
 * user is near.
 *
 * @throws {InputError} for a fence that cannot be, for two of one id, and for a misspelt option.
 */
export function sharedFences(
  fences: Iterable<Fence>,
  options: {
    /** As that of a watch: `fenceIndex()` for thousands. Default: all are looked at. */
    readonly index?: FenceIndex;
  } = {},
): SharedFences {
  checkOptions('sharedFences', options, {
    index: (value) => (value instanceof Object ? undefined : 'must be fenceIndex()'),
  });
  return new SharedField([...fences], finderOf(options.index));
}

/** Whether it is what `sharedFences()` gives. */
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
      'these fences are shared with other watches, and stay as they are',
      {},
      'Give this watch fences of its own',
    );
  }

  remove(): never {
    return this.add();
  }
}

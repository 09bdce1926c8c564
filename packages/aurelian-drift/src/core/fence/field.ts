import { InputError } from '../check/input-error.js';
import type { Position } from '../geodesy/position.js';
import type { Fence, FenceShape } from './fence.js';
import type { Around, FenceSearch } from './fence-search.js';
import { shapeOf } from './shape.js';
import type { Timetable } from './timetable.js';

/** A fence and its geometry. */
export interface Plot {
  readonly fence: Fence;
  readonly shape: FenceShape;
}

/** The fences, as a watch sees them. */
export interface FenceField {
  /** Fences with a timetable. */
  readonly timed: ReadonlyMap<Plot, Timetable>;
  plot(id: string): Plot | undefined;
  /** Fences within a number of metres of a position; it may include others. */
  near(at: Position, metres: number): readonly Plot[];
  /** The same for one user. */
  around(): Around<Plot>;
  /** Adds a fence with an unused id. */
  add(plot: Plot): void;
  remove(plot: Plot): void;
}

/** The fences that are watched, by one user or by thousands. It holds no state of a user. */
export class Field implements FenceField {
  readonly #plots = new Map<string, Plot>();
  readonly #index: FenceSearch<Plot> | undefined;
  /** With a few hundred fences, a search of all is the fastest. */
  #all: readonly Plot[] | undefined;
  readonly timed = new Map<Plot, Timetable>();

  /** @throws {InputError} for an impossible fence, and for two fences with the same id. */
  constructor(fences: Iterable<Fence>, index: FenceSearch<Plot> | undefined) {
    this.#index = index;
    for (const fence of fences) {
      if (this.#plots.has(fence.id))
        throw new InputError('bad-value', `two fences have the id "${fence.id}"`);
      this.add({ fence, shape: shapeOf(fence) });
    }
  }

  plot(id: string): Plot | undefined {
    return this.#plots.get(id);
  }

  near(at: Position, metres: number): readonly Plot[] {
    return this.#index?.near(at, metres) ?? (this.#all ??= [...this.#plots.values()]);
  }

  around(): Around<Plot> {
    return this.#index?.around() ?? this.near.bind(this);
  }

  add(plot: Plot): void {
    const { fence, shape } = plot;
    this.#all = undefined;
    this.#plots.set(fence.id, plot);
    if (fence.when !== undefined) this.timed.set(plot, fence.when);
    this.#index?.add(shape.bounds, plot);
  }

  remove(plot: Plot): void {
    this.#all = undefined;
    this.#plots.delete(plot.fence.id);
    this.timed.delete(plot);
    this.#index?.remove(plot);
  }
}

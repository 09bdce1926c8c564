import { InputError } from '../core/check/input-error.js';
import { fixOf, marked, type Fix, type RawFix } from '../core/fix/fix.js';
import type { NoFixError } from '../core/fix/no-fix-error.js';
import type { Demand, Source } from './source.js';

/** One who uses the watch. */
export interface WatchUser {
  readonly demand: Demand;
  fix(fix: Fix): void;
  trouble(error: NoFixError): void;
  gap(): void;
  end(): void;
}

/**
 * The one watch on the device, shared by all who follow: open while anyone does, at the strictest demand among
 * them. Raw fixes become checked ones here, once, and are marked when they repeat or fall behind their predecessor.
 */
export class SharedWatch {
  readonly #source: Source;
  readonly #warn: (text: string) => void;
  readonly #users = new Set<WatchUser>();
  #release: (() => void) | undefined;
  #demand: Demand | undefined;
  #last: Fix | undefined;

  constructor(source: Source, warn: (text: string) => void) {
    this.#source = source;
    this.#warn = warn;
  }

  /** Whether the device's receiver is on. */
  get open(): boolean {
    return this.#release !== undefined;
  }

  /** Joins; the returned function leaves, harmlessly so a second time. The last one out releases the device. */
  join(user: WatchUser): () => void {
    this.#users.add(user);
    this.#adjust();
    return () => {
      if (this.#users.delete(user)) this.#adjust();
    };
  }

  #adjust(): void {
    const demands = [...this.#users].map((user) => user.demand);
    if (demands.length === 0) {
      this.#close();
      return;
    }
    const demand = strictest(demands);
    if (
      this.#release !== undefined &&
      demand.accuracy === this.#demand?.accuracy &&
      demand.maxAge === this.#demand?.maxAge
    )
      return;
    this.#close();
    this.#demand = demand;
    const watch = { ended: false };
    const release = this.#source.watch(demand, {
      fix: (raw) => this.#take(raw),
      trouble: (error) => this.#tell((user) => user.trouble(error)),
      gap: () => this.#tell((user) => user.gap()),
      end: () => {
        watch.ended = true;
        this.#release = undefined;
        this.#tell((user) => user.end());
      },
    });
    if (!watch.ended) this.#release = release;
  }

  #close(): void {
    this.#release?.();
    this.#release = undefined;
    // A watch opened later may well begin with the very fix this one ended with: to whoever opened it, it is new.
    this.#last = undefined;
  }

  #take(raw: RawFix): void {
    let fix: Fix;
    try {
      fix = fixOf(raw);
    } catch (error) {
      if (!(error instanceof InputError)) throw error;
      this.#warn(`${this.#source.name} gave an impossible fix, which is left out: ${error.reason}`);
      return;
    }
    const last = this.#last;
    if (last !== undefined && fix.time < last.time) fix = marked(fix, 'backwards');
    else if (last?.time === fix.time && last.lat === fix.lat && last.lon === fix.lon)
      fix = marked(fix, 'duplicate');
    else this.#last = fix;
    this.#tell((user) => user.fix(fix));
  }

  /** Over a copy: a user may leave while being told. */
  #tell(action: (user: WatchUser) => void): void {
    for (const user of [...this.#users]) if (this.#users.has(user)) action(user);
  }
}

function strictest(demands: readonly Demand[]): Demand {
  const accuracies = demands.flatMap(({ accuracy }) => (accuracy === undefined ? [] : [accuracy]));
  return {
    maxAge: Math.min(...demands.map(({ maxAge }) => maxAge)),
    ...(accuracies.length > 0 && { accuracy: Math.min(...accuracies) }),
  };
}

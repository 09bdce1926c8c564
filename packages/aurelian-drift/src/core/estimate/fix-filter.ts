import type { Fix } from '../fix/fix.js';
import type { Position } from '../geodesy/position.js';
import type { Estimate } from './motion-filter.js';
import { PathFilter, type FilterState, type Velocity, type Outcome } from './path-filter.js';
import { EstimateNumbers } from './estimate-numbers.js';
import { Stillness, type Rest } from './stillness.js';

/** A fix made steady. */
export interface FilterResult {
  /**
   * Where the user most likely was, with its own 95 % radius, speed and course, no speed and no course at rest;
   * everything else as in the raw fix. Made when it is read.
   */
  readonly fix: Fix;
  /** Whether the raw fix was refused: it cannot be where the user was, and moved nothing. */
  readonly refused: boolean;
  /** The path does not join on to the one before: the user has jumped, or was not heard of for five minutes. */
  readonly jump: boolean;
  /** Since when the user rests, milliseconds since 1970 UTC, and where; `undefined` in motion. */
  readonly rest: Rest | undefined;
}

/** What a filter knows now; for the smoother only. */
export let knowledgeOf: (filter: FixFilter) => FilterState;

/**
 * Steadies fixes one by one, live, and tells rest from motion. Time between fixes may be anything; the cost of each is
 * the same. The model and its source are in `motion-filter.ts`. Raw fixes stay as they are.
 */
export class FixFilter {
  static {
    knowledgeOf = (filter) => filter.#filter.knowledge;
  }

  readonly #filter = new PathFilter();
  readonly #stillness = new Stillness();

  /** Takes the next fix. One older than its predecessor is refused. */
  take(raw: Fix): FilterResult {
    const filter = this.#filter;
    const outcome = filter.take(raw);
    const { position, velocity, accuracy } = filter;
    if (outcome === 'jump') this.#stillness.forget();
    if (outcome !== 'refused') this.#stillness.add(raw.time, position, velocity, accuracy);
    return new FilterReading(raw, position, filter.estimated(outcome), outcome, this.#stillness.rest);
  }

  /** The next fix follows on nothing. */
  breakSegment(): void {
    this.#filter.breakSegment();
    this.#stillness.forget();
  }

  /** Time of the last fix that moved what is known, be it by its velocity alone; NaN before the first. */
  get time(): number {
    return this.#filter.time;
  }

  /** Where the user most likely was at the last fix that was not refused. Means nothing before the first. */
  get position(): Position {
    return this.#filter.position;
  }

  /** m/s east and north, and the standard deviation of each. */
  get velocity(): Velocity {
    return this.#filter.velocity;
  }

  /** Metres: the 95 % radius that the receiver usually states, or that of the place when it is known less well. */
  get accuracy(): number {
    return this.#filter.accuracy;
  }

  /** Since when the user rests and where; `undefined` in motion. */
  get rest(): Rest | undefined {
    return this.#stillness.rest;
  }

  /** Where the places of the last seconds lie in the middle: it lags behind who moves. */
  get middle(): Position | undefined {
    return this.#stillness.middle;
  }
}

/** A steadied fix as a few numbers, until somebody wants to read it. */
class FilterReading extends EstimateNumbers implements FilterResult {
  readonly refused: boolean;
  readonly jump: boolean;
  readonly rest: Rest | undefined;
  readonly #raw: Fix;
  #fix: Fix | undefined;

  constructor(raw: Fix, origin: Position, estimate: Estimate, outcome: Outcome, rest: Rest | undefined) {
    super(origin, estimate);
    this.#raw = raw;
    this.refused = outcome === 'refused' || outcome === 'velocity';
    this.jump = outcome === 'jump';
    this.rest = rest;
  }

  get fix(): Fix {
    return (this.#fix ??= this.fixLike(this.#raw, this.rest !== undefined));
  }
}

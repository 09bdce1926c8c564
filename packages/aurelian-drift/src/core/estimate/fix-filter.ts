import type { Fix } from '../fix/fix.js';
import type { Position } from '../geodesy/position.js';
import type { Estimate } from './motion-filter.js';
import { PathFilter, type FilterState, type Velocity, type Outcome } from './path-filter.js';
import { EstimateNumbers } from './estimate-numbers.js';
import { Stillness, type Rest } from './stillness.js';

/** Result of filtering one fix. */
export interface FilterResult {
  /**
   * The estimate at the time of the raw fix: position with its own 95 % radius, speed and course, without speed and
   * course at rest. Other fields are those of the raw fix. Computed when it is read.
   */
  readonly fix: Fix;
  /** Whether the raw fix was refused as an outlier. A refused fix does not change the estimate. */
  readonly refused: boolean;
  /**
   * Whether the path starts anew: the user has jumped, there was no fix for five minutes, or the fixes before were far
   * coarser, as from the network.
   */
  readonly jump: boolean;
  /** The current rest; `undefined` in motion. */
  readonly rest: Rest | undefined;
}

/** State of a filter, for the smoother only. */
export let knowledgeOf: (filter: FixFilter) => FilterState;

/**
 * Filters fixes one by one, live, and tells rest from motion. The time between fixes may vary; the cost of each fix is
 * constant. The model and its source are in `motion-filter.ts`. The raw fixes stay unchanged.
 */
export class FixFilter {
  static {
    knowledgeOf = (filter) => filter.#filter.knowledge;
  }

  readonly #filter = new PathFilter();
  readonly #stillness = new Stillness();

  /** Takes the next fix. A fix that is older than the one before is refused. */
  take(raw: Fix): FilterResult {
    const filter = this.#filter;
    const outcome = filter.take(raw);
    const { position, velocity, accuracy } = filter;
    if (outcome === 'jump') this.#stillness.forget();
    if (outcome !== 'refused') this.#stillness.add(raw.time, position, velocity, accuracy);
    return new FilterReading(
      raw,
      position,
      filter.estimated(outcome),
      outcome,
      this.#stillness.rest,
      filter.doubt,
    );
  }

  /** Starts a new segment: the next fix does not continue the path. */
  breakSegment(): void {
    this.#filter.breakSegment();
    this.#stillness.forget();
  }

  /**
   * Time of the last fix that changed the estimate, if only by its velocity, in milliseconds since 1970 UTC; NaN before
   * the first.
   */
  get time(): number {
    return this.#filter.time;
  }

  /** Estimated position at the last fix that was not refused. Undefined content before the first fix. */
  get position(): Position {
    return this.#filter.position;
  }

  /** Estimated velocity in m/s east and north, and its standard deviation along each axis. */
  get velocity(): Velocity {
    return this.#filter.velocity;
  }

  /** Metres: the 95 % radius that the receiver usually states, or the radius of the estimate where that is larger. */
  get accuracy(): number {
    return this.#filter.accuracy;
  }

  /** The current rest; `undefined` in motion. */
  get rest(): Rest | undefined {
    return this.#stillness.rest;
  }

  /** Mean of the positions of the last seconds; it lags behind a user in motion. */
  get middle(): Position | undefined {
    return this.#stillness.middle;
  }
}

/** A filtered fix as a few numbers; the fix is made when it is read. */
class FilterReading extends EstimateNumbers implements FilterResult {
  readonly refused: boolean;
  readonly jump: boolean;
  readonly rest: Rest | undefined;
  readonly #raw: Fix;
  #fix: Fix | undefined;

  constructor(
    raw: Fix,
    origin: Position,
    estimate: Estimate,
    outcome: Outcome,
    rest: Rest | undefined,
    doubt: number,
  ) {
    super(origin, estimate, doubt);
    this.#raw = raw;
    this.refused = outcome === 'refused' || outcome === 'velocity';
    this.jump = outcome === 'jump';
    this.rest = rest;
  }

  get fix(): Fix {
    return (this.#fix ??= this.fixLike(this.#raw, this.rest !== undefined));
  }
}

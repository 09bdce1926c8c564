import { InputError } from '../check/input-error.js';
import { formatValue } from '../check/number.js';
import type { ArcCosts } from './contraction.js';
import { labelOf, type LaneGraph, type Lanes } from './lane-graph.js';
import type { TravelRule } from './travel-kinds.js';

/** What a way shall be. */
export type Preference = 'fastest' | 'shortest';

/** A network with the speeds of one rule, prepared for searches. */
export class Travel {
  readonly network: LaneGraph;
  readonly preference: Preference;
  /** Speed on each lane forward and backward, metres per second; 0 for closed. */
  readonly #speeds: Float64Array;
  #costs: ArcCosts | undefined;

  /** @throws {InputError} that names the lane at which the rule throws or gives no speed. */
  constructor(network: LaneGraph, rule: TravelRule, preference: Preference) {
    this.network = network;
    this.preference = preference;
    const { lanes } = network.parts;
    this.#speeds = new Float64Array(2 * lanes.properties.length);
    for (let i = 0; i < lanes.properties.length; i++) {
      this.#speeds[2 * i] = speedBy(rule, lanes, i, 'forward');
      this.#speeds[2 * i + 1] = speedBy(rule, lanes, i, 'backward');
    }
  }

  /** Metres per second on an arc; 0 if it is closed. */
  speed(arc: number): number {
    const lane = this.network.parts.laneOf[arc >> 1] as number;
    return this.#speeds[2 * lane + (arc & 1)] as number;
  }

  /** Whether an edge is open in one direction at least. */
  isOpen(edge: number): boolean {
    return this.speed(2 * edge) > 0 || this.speed(2 * edge + 1) > 0;
  }

  /** Cost of some metres of an arc: seconds, or metres. No metres cost nothing, on a closed arc too. */
  costOf(arc: number, metres: number): number {
    const speed = this.speed(arc);
    if (speed === 0) return metres === 0 ? 0 : Infinity;
    return this.preference === 'fastest' ? metres / speed : metres;
  }

  /** Costs of the shortcuts, made when they are first needed. */
  get costs(): ArcCosts {
    const { lengths } = this.network;
    return (this.#costs ??= this.network.contraction.costs((edge, back) =>
      this.costOf(2 * edge + Number(back), lengths[edge] as number),
    ));
  }
}

function speedBy(rule: TravelRule, lanes: Lanes, lane: number, direction: 'forward' | 'backward'): number {
  let speed: number | 'closed';
  try {
    speed = rule(lanes.properties[lane] ?? {}, direction);
  } catch (error) {
    throw new InputError(
      'bad-value',
      `${placeOf(lanes, lane, direction)} failed: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
  if (speed === 'closed') return 0;
  if (typeof speed === 'number' && speed > 0 && speed < 1000) return speed;
  throw new InputError(
    'bad-value',
    `${placeOf(lanes, lane, direction)} gave ${formatValue(speed)}`,
    {},
    'Return metres per second, above 0 and below 1000, or "closed".',
  );
}

function placeOf(lanes: Lanes, lane: number, direction: 'forward' | 'backward'): string {
  return `the travel rule on "${labelOf(lanes, lane)}", ${direction},`;
}

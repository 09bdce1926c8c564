/** Situation of the user, for the decision how long the receiver may be off. */
export interface SamplingSituation {
  /** Duration of the current rest in seconds; 0 in motion. */
  readonly rested: number;
  /** Speed in m/s. */
  readonly speed: number;
  /** 95 % radius of the position in metres. */
  readonly accuracy: number;
  /** Metres from the position to the nearest edge whose crossing must not be missed; absent when there is none. */
  readonly edge?: number;
  /** Charge of the battery, 0…1; absent when it is unknown. */
  readonly battery?: number;
}

/** Figures of the plan. */
export interface PlanFigures {
  /** Wanted seconds and metres between fixes in motion. */
  readonly every: number;
  readonly beyond: number;
  /** Maximum delay of a crossing in seconds. */
  readonly lateness: number;
  /** Maximum speed in m/s of a user who sets off. */
  readonly topSpeed: number;
  /** Maximum pause in seconds. */
  readonly longest: number;
  /** Usual seconds from switching the receiver on to its first fix. */
  readonly warmUp: number;
}

/** A pause of the receiver, and the reason for its length. */
export interface Pause {
  /** Seconds; 0 for no pause. */
  readonly seconds: number;
  readonly reason: 'rest' | 'interval' | 'edge';
  /** Metres from the position within which no edge can be; absent where there is none. */
  readonly beyond?: number;
}

/** Seconds of rest before the first pause; later pauses are a share of the duration of the rest. */
const SETTLED = 60;
const SHARE_OF_REST = 0.2;
/** Charge below which pauses are twice as long, where nothing is missed by that. */
const LOW = 0.2;
/** A user may set off faster than before, in a vehicle. */
const QUICKER = 1.5;
/** Pauses shorter than this, in seconds, save nothing. */
const WORTH = 5;

/**
 * Length of the time for which no fix is needed: at rest, longer the longer the rest has lasted; in motion, until the
 * next wanted fix; but always short enough that a crossing of the nearest edge is found within `lateness` seconds, with
 * the position off by its accuracy towards that edge.
 */
export function pauseFor(need: SamplingSituation, figures: PlanFigures): Pause {
  const { rested, speed, accuracy, edge, battery = 1 } = need;
  const { every, beyond, lateness, topSpeed, longest, warmUp } = figures;
  const interval = Math.max(every, beyond / Math.max(speed, topSpeed));
  const rest = rested >= SETTLED ? Math.min(longest, rested * SHARE_OF_REST) : 0;
  let wanted = Math.max(interval, rest);
  let reason: Pause['reason'] = rest >= interval ? 'rest' : 'interval';
  if (battery < LOW && wanted > WORTH) wanted = Math.max(wanted, Math.min(longest, 2 * wanted));
  if (edge !== undefined) {
    const min = Math.max(0, edge - accuracy) / Math.max(topSpeed, QUICKER * speed) + lateness;
    if (min < wanted) [wanted, reason] = [min, 'edge'];
  }
  const seconds = wanted - warmUp;
  const free = edge === undefined ? {} : { beyond: Math.max(0, edge - accuracy) };
  return { seconds: seconds >= WORTH ? seconds : 0, reason, ...free };
}

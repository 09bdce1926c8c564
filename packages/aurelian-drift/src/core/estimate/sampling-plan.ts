/** What is known of the user when it is asked how long the receiver may be left off. */
export interface SamplingSituation {
  /** Seconds that the user has rested; 0 in motion. */
  readonly rested: number;
  /** m/s. */
  readonly speed: number;
  /** Metres, 95 % radius of the place. */
  readonly accuracy: number;
  /** Metres from the place to the nearest edge that must not be missed; absent when there is none. */
  readonly edge?: number;
  /** Charge of the battery, 0…1; absent when it is not told. */
  readonly battery?: number;
}

/** What a plan goes by. */
export interface PlanFigures {
  /** Seconds and metres between fixes that are asked for in motion. */
  readonly every: number;
  readonly beyond: number;
  /** Seconds by which a crossing may be noticed late. */
  readonly lateness: number;
  /** m/s that the user is never faster than when setting off. */
  readonly topSpeed: number;
  /** Seconds that the receiver is left off at the most. */
  readonly longest: number;
  /** Seconds from switching the receiver on to its first fix, as it has been of late. */
  readonly warmUp: number;
}

/** How long the receiver may be left off, and what decides it. */
export interface Pause {
  /** Seconds; 0: not at all. */
  readonly seconds: number;
  readonly reason: 'rest' | 'interval' | 'edge';
}

/** Seconds of rest after which the receiver is left off; then a share of how long the rest has lasted. */
const SETTLED = 60;
const SHARE_OF_REST = 0.2;
/** Below this charge pauses are twice as long, where nothing is missed by it. */
const LOW = 0.2;
/** One who sets off in a vehicle is quicker than before. */
const QUICKER = 1.5;
/** Seconds below which leaving the receiver off gains nothing. */
const WORTH = 5;

/**
 * How long nothing can happen that a fix is needed for: at rest, longer the longer it has lasted; in motion, until the
 * next fix that is asked for; and in no case past the moment at which the user could have crossed the nearest edge and
 * be noticed `lateness` seconds afterwards, the place being off by its accuracy towards it.
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
  return { seconds: seconds >= WORTH ? seconds : 0, reason };
}

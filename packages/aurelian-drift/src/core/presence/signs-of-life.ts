import type { SharedState } from './messages.js';

/** Keep-alive periods without a word after which a broker gives a client up (MQTT 3.1.1, 3.1.2.10). */
export const PERIODS = 1.5;
/** Seconds that the last word may be on its way. */
const WAY = 5;
/**
 * Seconds between two looks at the clock: of the seconds for the way, so that what is known by then is told by then.
 */
export const TICK = 1;
/** Seconds without a change of place after which a member is still, unless they say so before. */
const STILL_AFTER = 60;
/** Metres a second of a slow walk: a rounded place changes no sooner than that way takes. */
const SLOW = 0.4;
/** Seconds that a message may be old, unless told. */
export const OLDEST = 86_400;
/** Seconds that clocks of members may be ahead of the watcher's. */
const AHEAD = 600;

/** Seconds after the last sign of life in which others are told that a member vanished. @param keepAlive seconds. */
export function reportedWithin(keepAlive: number): number {
  return PERIODS * keepAlive + WAY;
}

/** Milliseconds after the last sign of life. */
export function vanishedAfter({ keepAlive }: SharedState): number {
  return (reportedWithin(keepAlive) - TICK) * 1000;
}

/** Milliseconds after the last sign of life. */
export function lateAfter({ keepAlive }: SharedState): number {
  return keepAlive * 1000;
}

/** Milliseconds after the last change of place. Who sends no places, or rounded ones, may walk a long way unseen. */
export function stillAfter(said: SharedState | undefined): number {
  return said?.veiled === true ? Infinity : (STILL_AFTER + (said?.rounding ?? 0) / SLOW) * 1000;
}

/**
 * Whether a time is of long ago, or of what is still to come: such a message says nothing of now. @param oldest
 * seconds.
 */
export function isAncient(time: number, now: number, oldest = OLDEST): boolean {
  return time < now - oldest * 1000 || time > now + AHEAD * 1000;
}

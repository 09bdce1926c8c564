import type { SharedState } from './messages.js';

/** Keep-alive periods without a packet after which a broker closes a connection (MQTT 3.1.1, 3.1.2.10). */
export const PERIODS = 1.5;
/** Seconds that a message may be on its way. */
const WAY = 5;
/** Seconds between two checks of the clock, within the seconds on the way, so that changes are reported in time. */
export const TICK = 1;
/** Seconds without a change of place after which a member is still, unless it announces that before. */
const STILL_AFTER = 60;
/** Speed of a slow walk in m/s: a rounded place changes no sooner than a walk over its cell takes. */
const SLOW = 0.4;
/** Default maximum age of a message in seconds. */
export const OLDEST = 86_400;
/** Seconds that the clock of a member may be ahead of the clock of the watcher. */
const AHEAD = 600;

/**
 * Seconds after the last sign of life within which watchers are told that a member vanished. @param keepAlive seconds.
 */
export function reportedWithin(keepAlive: number): number {
  return PERIODS * keepAlive + WAY;
}

/** Milliseconds after the last sign of life, after which a member has vanished. */
export function vanishedAfter({ keepAlive }: SharedState): number {
  return (reportedWithin(keepAlive) - TICK) * 1000;
}

/** Milliseconds after the last sign of life, after which a member is late. */
export function lateAfter({ keepAlive }: SharedState): number {
  return keepAlive * 1000;
}

/**
 * Milliseconds after the last change of place, after which a member is still. A member with rounded or no places may
 * walk far without a change.
 */
export function stillAfter(said: SharedState | undefined): number {
  return said?.veiled === true ? Infinity : (STILL_AFTER + (said?.rounding ?? 0) / SLOW) * 1000;
}

/** Whether a time is too far in the past or the future for a current message. @param oldest seconds. */
export function isAncient(time: number, now: number, oldest = OLDEST): boolean {
  return time < now - oldest * 1000 || time > now + AHEAD * 1000;
}

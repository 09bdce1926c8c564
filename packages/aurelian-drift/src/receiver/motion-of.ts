import { MotionMeter } from '../core/estimate/motion-meter.js';
import type { Motion } from '../core/fix/motion.js';
import { liveValue, type LiveValue } from '../live/live-value.js';
import type { Follow } from './follow.js';

/**
 * Speed and course of a follow, live: as the platform states them, else derived from the positions and marked so.
 * `undefined` at rest, while they are not known, while nothing comes, and after the end of the follow.
 */
export function motionOf(follow: Follow): LiveValue<Motion | undefined> {
  const meter = new MotionMeter();
  const motion = liveValue<Motion | undefined>(undefined);
  follow.onFix((fix) => motion.set(meter.take(fix)), { unsampled: true });
  follow.onEvent(({ kind }) => {
    if (kind === 'gap') meter.breakSegment();
    if (kind === 'gap' || kind === 'silent' || kind === 'paused') motion.set(undefined);
  });
  void follow.outcome.then(() => motion.set(undefined));
  return motion;
}

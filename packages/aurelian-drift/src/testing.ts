/* Pretend devices and clocks, for an app's own tests and demonstrations. */

export { GAITS, GAIT_NAMES, type Gait, type GaitFigures } from './core/motion/gait.js';
export { journey, standstill, type JourneyOptions, type Moment } from './core/motion/journey.js';
export { randomFrom, type Random } from './core/motion/random.js';
export { RECEPTIONS, type FreshReception, type ReceptionFigures } from './core/motion/reception.js';
export { RECEPTION_NAMES, type Reception, type SmoothedReceptionName } from './core/motion/receptions.js';
export { SMOOTHED_RECEPTIONS, type SmoothedFigures } from './core/motion/smoothed-reception.js';
export {
  ACCURACY_STATEMENTS,
  SPEED_STATEMENTS,
  type AccuracyStatement,
  type SpeedStatement,
} from './core/motion/statement.js';
export { scaledClock, type ScaledClock } from './receiver/scaled-clock.js';
export { VirtualClock } from './receiver/virtual-clock.js';
export {
  memoryBroker,
  type Loss,
  type MemoryBroker,
  type MemoryBrokerOptions,
  type PublishedEvent,
} from './presence/memory-broker.js';
export { replaySource } from './sources/replay.js';
export type { Answer, ConsentOptions } from './sources/simulated-consent.js';
export { SimulatedDevice, type SimulatedDeviceOptions } from './sources/simulated-device.js';
export type { MotionOptions } from './sources/simulated-motion.js';
export {
  installInPlatform,
  type PlatformDoubleOptions,
  type NavigatorLike,
} from './sources/platform-double.js';
export { previewSource } from './sources/preview.js';
export {
  simulatedShell,
  type SimulatedShell,
  type SimulatedShellOptions,
} from './sources/simulated-shell.js';
export type { Confidence } from './core/fix/confidence.js';
export type { Ability } from './sources/bridge-abilities.js';
export type { RestFigures } from './core/motion/stride.js';
export type { SimulatedLife } from './sources/simulated-life.js';

/** Figures of a way of moving. */
export interface GaitFigures {
  /** Mean speed on the level, m/s. */
  readonly speed: number;
  /** Standard deviation of the speed as a share of the mean. */
  readonly sway: number;
  /** Time constant of the speed in seconds. */
  readonly memory: number;
  /** Speed in m/s through a corner of 90°, twice that for half the angle; a walker turns on the spot. */
  readonly corner?: number;
  /** Deceleration before a corner or a rest, and acceleration after it, in m/s². */
  readonly brake: number;
}

/** Speeds of ordinary people on ordinary ground. */
export const GAITS = Object.freeze({
  walk: { speed: 1.35, sway: 0.1, memory: 20, brake: 1 },
  run: { speed: 2.9, sway: 0.08, memory: 30, corner: 2.5, brake: 1 },
  cycle: { speed: 4.8, sway: 0.15, memory: 30, corner: 3, brake: 0.8 },
  drive: { speed: 12, sway: 0.2, memory: 40, corner: 5, brake: 1.5 },
  ferry: { speed: 6.5, sway: 0.03, memory: 120, corner: 4, brake: 0.15 },
}) satisfies Readonly<Record<string, GaitFigures>>;

/** Way of moving of the pretend user: a name in `GAITS`. */
export type Gait = keyof typeof GAITS;
/** Names of the gaits in `GAITS`. */
export const GAIT_NAMES = Object.keys(GAITS) as readonly Gait[];

/** Way of moving of a user, as far as speeds tell: `running` counts as cycling. */
export type WayOfMoving = 'standing' | 'walking' | 'cycling' | 'driving';
/** Ways of moving that can be given: those with motion. */
export type GivenWay = Exclude<WayOfMoving, 'standing'>;

/** What a way of moving implies for the estimate. */
export interface WayFigures {
  readonly name: GivenWay;
  /** Usual speeds end here, m/s. */
  readonly max: number;
  /**
   * Finest scale of smoothing, seconds: a few metres of the way, in which no corner hides. And that for a receiver that
   * smooths its positions, and so cuts corners itself.
   */
  readonly scale: number;
  readonly smoothedScale: number;
}

/** Ways of moving, slowest first. */
export const WAYS: readonly WayFigures[] = [
  { name: 'walking', max: 2.2, scale: 3, smoothedScale: 3 },
  { name: 'cycling', max: 8.5, scale: 1.5, smoothedScale: 2.5 },
  { name: 'driving', max: Infinity, scale: 1, smoothedScale: 2.5 },
];

/** Names of the ways of moving in `WAYS`. */
export const GIVEN_WAYS: readonly GivenWay[] = WAYS.map(({ name }) => name);

/** The way of moving with a usual speed in m/s. */
export function wayAt(speed: number): GivenWay {
  return WAYS.find(({ max }) => speed < max)?.name ?? 'driving';
}

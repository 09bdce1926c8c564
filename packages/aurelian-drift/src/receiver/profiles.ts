/** Demands of a use of positions. */
export interface Profile {
  /** Wanted accuracy in metres. */
  readonly accuracy: number;
  /** Seconds between fixes. */
  readonly every: number;
  /** Metres between fixes. */
  readonly beyond: number;
}

/**
 * Named demands: `district` for places nearby and the part of town; `stroll` for a walk on a map; `round` for a trail
 * and for fences of some tens of metres.
 */
export const PROFILES = Object.freeze({
  district: Object.freeze({ accuracy: 1000, every: 60, beyond: 200 }),
  stroll: Object.freeze({ accuracy: 20, every: 5, beyond: 5 }),
  round: Object.freeze({ accuracy: 8, every: 1, beyond: 0 }),
}) satisfies Readonly<Record<string, Profile>>;

/** Name of a profile in `PROFILES`. */
export type ProfileName = keyof typeof PROFILES;
export const PROFILE_NAMES = Object.keys(PROFILES) as readonly ProfileName[];

/** An accuracy is needlessly fine when it is this many times finer than its profile needs. */
const NEEDLESS = 10;

interface Demands {
  readonly profile?: ProfileName | undefined;
  readonly accuracy?: number | undefined;
  readonly every?: number | undefined;
  readonly beyond?: number | undefined;
}

/** The figures of the profile, replaced by those that were given. */
export function withProfile<Options extends Demands>(options: Options): Options {
  if (options.profile === undefined) return options;
  const given = Object.entries(options).filter(([, value]) => value !== undefined);
  return { ...options, ...PROFILES[options.profile], ...Object.fromEntries(given) };
}

/** Demands that cannot be met or have no use, each with a better value; one text per finding. */
export function needlessDemands(call: string, options: Demands, minInterval: number | undefined): string[] {
  const { profile, accuracy, every } = options;
  const found: string[] = [];
  if (minInterval !== undefined && every !== undefined && every > 0 && every < minInterval) {
    found.push(
      `${call}: every ${every} s is quicker than the source can deliver; every: ${minInterval} gives as much`,
    );
  }
  if (profile === undefined) return found;
  const plan = PROFILES[profile];
  if (accuracy !== undefined && accuracy * NEEDLESS <= plan.accuracy) {
    found.push(
      `${call}: accuracy ${accuracy} m keeps the satellite receiver on, where profile "${profile}" ` +
        `is served by ${plan.accuracy} m; leave accuracy out`,
    );
  }
  if (every !== undefined && every * NEEDLESS <= plan.every) {
    found.push(
      `${call}: every ${every} s is far quicker than profile "${profile}" needs; every: ` +
        `${plan.every} spares the battery`,
    );
  }
  return found;
}

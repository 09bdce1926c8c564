/** The clock of the library. Everything above the core that waits, or computes an age, is given one. */
export interface Clock {
  /** Milliseconds since 1970 UTC. */
  now(): number;
  /** Calls `action` once after a number of seconds, unless the returned function is called first. */
  after(seconds: number, action: () => void): () => void;
}

/** The clock of the platform. */
export const systemClock: Clock = {
  now: () => Date.now(),
  after(seconds, action) {
    const timer = setTimeout(action, seconds * 1000);
    return () => clearTimeout(timer);
  },
};

/** A clock that starts at `start` (milliseconds since 1970 UTC) and runs `tempo` times as fast as another clock. */
export function scaledClock(tempo: number, start: number, base: Clock = systemClock): Clock {
  const origin = base.now();
  return {
    now: () => start + (base.now() - origin) * tempo,
    after: (seconds, action) => base.after(seconds / tempo, action),
  };
}

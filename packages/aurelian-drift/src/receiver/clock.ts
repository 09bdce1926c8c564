/** The clock of the library. Everything above the core that waits, or computes an age, is given one. */
export interface Clock {
  /** Milliseconds since 1970 UTC. */
  now(): number;
  /**
   * Milliseconds since any moment, by a clock that is never put forward or back. Left out where the platform has none:
   * a clock that is put right is then known by the fixes alone.
   */
  steady?(): number;
  /** Calls `action` once after a number of seconds, unless the returned function is called first. */
  after(seconds: number, action: () => void): () => void;
}

/** The clock of the platform. */
export const systemClock: Clock = {
  now: () => Date.now(),
  ...(typeof performance !== 'undefined' && { steady: () => performance.now() }),
  after(seconds, action) {
    const timer = setTimeout(action, seconds * 1000);
    return () => clearTimeout(timer);
  },
};

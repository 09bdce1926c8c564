/**
 * Life cycle of the app. `hidden`: another app, tab or screen is in front. `frozen`: it is kept, but does not run.
 * `restored`: it runs again. `closed`: the user closed it. `killed`: the system ended it, which is mostly known only at
 * the next start.
 */
export const LIFE_EVENTS = ['shown', 'hidden', 'frozen', 'restored', 'closed', 'killed'] as const;

/** A change in the life cycle of the app. */
export interface LifeEvent {
  readonly kind: (typeof LIFE_EVENTS)[number];
  /**
   * Milliseconds since 1970 UTC. Absent: now. For `killed`, which is found at the next start, the time of the last sign
   * of life.
   */
  readonly time?: number;
}

/** A past change in the life cycle. */
export interface LifeEntry extends LifeEvent {
  readonly time: number;
}

/** The life cycle of the app, as a source sees it. */
export interface Life {
  /** Whether the app is hidden or frozen now. */
  readonly hidden: boolean;
  /** Calls the listener with each event. Returns the function that unsubscribes. */
  onEvent(listener: (event: LifeEvent) => void): () => void;
}

/** What happens to a follow while the app is hidden. */
export type WhenHidden = 'continues' | 'continues-with-sign' | 'pauses';

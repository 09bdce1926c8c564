/**
 * What the platform does with the app. `hidden`: another app, tab or screen is in front. `frozen`: it is kept but
 * runs no more. `restored`: it runs again. `closed`: the user closed it. `killed`: the system ended it, which is
 * mostly known only at the next start.
 */
export const LIFE_EVENTS = ['shown', 'hidden', 'frozen', 'restored', 'closed', 'killed'] as const;

/** What the platform did with the app. */
export interface LifeEvent {
  readonly kind: (typeof LIFE_EVENTS)[number];
  /** Milliseconds since 1970 UTC. Absent: now. For a `killed` found at the next start, the last sign of life. */
  readonly time?: number;
}

/** An event of the past. */
export interface LifeEntry extends LifeEvent {
  readonly time: number;
}

/** The life of the app, as a source sees it. */
export interface Life {
  /** Whether the app is hidden or frozen now. */
  readonly hidden: boolean;
  /** Calls back with each event. Returns what ends that. */
  onEvent(listener: (event: LifeEvent) => void): () => void;
}

/** What becomes of following while the app is hidden. */
export type WhenHidden = 'continues' | 'continues-with-sign' | 'pauses';

/** Turns at the start of a step of a way. */
export const TURNS = [
  'start', 'straight', 'slight-left', 'left', 'sharp-left', 'slight-right', 'right', 'sharp-right',
  'back', 'via', 'arrive',
] as const; // prettier-ignore
/** A turn at the start of a step. */
export type Turn = (typeof TURNS)[number];

/** Kinds of failed look-ups; no others occur. */
export const SERVICE_ERROR_KINDS = [
  'timed-out', 'unreachable', 'busy', 'failing', 'refused', 'unfit', 'unsupported', 'unknown',
] as const; // prettier-ignore
/** Kind of a failed look-up. */
export type ServiceErrorKind = (typeof SERVICE_ERROR_KINDS)[number];

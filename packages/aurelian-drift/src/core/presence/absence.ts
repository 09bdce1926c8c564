/** Absence of a member of a party. Times are milliseconds since 1970 UTC. */
export type Absence =
  | { readonly kind: 'none' }
  /** They took their record back; or that is concluded, because the broker, found again, does not tell of them. */
  | { readonly kind: 'left'; readonly at: number; readonly concluded: boolean }
  /** No sign of life came for too long, or the broker says so in their stead. */
  | { readonly kind: 'vanished'; readonly at: number };

/** Steps that change the absence. */
export type AbsenceStep =
  /** A message of the member has arrived. */
  | { readonly step: 'heard' }
  | { readonly step: 'took-leave'; readonly at: number }
  | { readonly step: 'missing'; readonly at: number }
  | { readonly step: 'vanished'; readonly at: number };

export const PRESENT: Absence = Object.freeze({ kind: 'none' });

/** Absence after a step. Returns the same value when the step changes nothing. */
export function absenceAfter(absence: Absence, step: AbsenceStep): Absence {
  switch (step.step) {
    case 'heard':
      return PRESENT;
    case 'took-leave':
      if (absence.kind !== 'left') return { kind: 'left', at: step.at, concluded: false };
      return absence.concluded ? { ...absence, concluded: false } : absence;
    case 'missing':
      return absence.kind === 'left' ? absence : { kind: 'left', at: step.at, concluded: true };
    case 'vanished':
      return absence.kind === 'vanished' ? absence : { kind: 'vanished', at: step.at };
  }
}

/** Phase of an announcement between switching on and off. */
export type Phase =
  /** Places are taken already; nothing has been published. */
  | { readonly phase: 'prepared' }
  /** Others are told. `confirmed`: on this connection the broker has told us our own state. */
  | { readonly phase: 'here'; readonly confirmed: boolean }
  | { readonly phase: 'asleep' }
  /** The record is being taken back; `done` is called once it is gone, or with why it cannot be. */
  | { readonly phase: 'leaving'; readonly done: (reason?: string) => void }
  | { readonly phase: 'over' };

export type PhaseStep =
  | { readonly step: 'begin' }
  | { readonly step: 'confirm' }
  /** The connection is lost. */
  | { readonly step: 'lose' }
  | { readonly step: 'sleep' }
  | { readonly step: 'wake' }
  | { readonly step: 'leave'; readonly done: (reason?: string) => void }
  | { readonly step: 'end' };

/**
 * Phase after a step. Returns the same value when the step changes nothing; an announcement that is leaving can only
 * end.
 */
export function phaseAfter(phase: Phase, step: PhaseStep): Phase {
  const at = phase.phase;
  if (at === 'over') return phase;
  switch (step.step) {
    case 'begin':
      return at === 'prepared' ? { phase: 'here', confirmed: false } : phase;
    case 'confirm':
      return at === 'here' && !phase.confirmed ? { phase: 'here', confirmed: true } : phase;
    case 'lose':
      return at === 'here' && phase.confirmed ? { phase: 'here', confirmed: false } : phase;
    case 'sleep':
      return at === 'prepared' || at === 'here' ? { phase: 'asleep' } : phase;
    case 'wake':
      return at === 'asleep' ? { phase: 'here', confirmed: false } : phase;
    case 'leave':
      return at === 'leaving' ? phase : { phase: 'leaving', done: step.done };
    case 'end':
      return { phase: 'over' };
  }
}

/** A problem that prevents positioning, or will. */
export interface Finding {
  /** `error`: a request will fail or be refused. `warning`: it works, but not as it should. */
  readonly severity: 'error' | 'warning';
  /** Stable name of the rule. */
  readonly rule: string;
  readonly file: string;
  readonly line?: number;
  /** What is wrong. */
  readonly problem: string;
  /** What to write or to do. */
  readonly remedy: string;
}

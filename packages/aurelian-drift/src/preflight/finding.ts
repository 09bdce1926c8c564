/** What stands in the way, or soon will. */
export interface Finding {
  /** `error`: asking will fail or be refused. `warning`: it works, and not as it should. */
  readonly severity: 'error' | 'warning';
  /** A stable name for the rule. */
  readonly rule: string;
  readonly file: string;
  readonly line?: number;
  /** What is wrong. */
  readonly problem: string;
  /** What to write, or to do. */
  readonly remedy: string;
}

import { liveValue, type LiveValue } from '../live/live-value.js';
import type { OnListenerError } from '../live/listener.js';
import { isolatedWarn, type Warn } from '../live/warn.js';

/** Kinds of diagnostics; no others occur. */
export type DiagnosticKind =
  | 'nobody-listens'
  | 'owner-gone'
  | 'prompt-without-act'
  | 'needless-demand'
  | 'doubtful-duration'
  | 'unanswered'
  | 'background-unused'
  | 'visible-only'
  | 'less-than-asked'
  | 'unhandled-failure'
  | 'impossible-fix'
  | 'stale-fix'
  | 'source-error'
  | 'listener-error';

/** Something that a developer should know, found by a receiver while it runs. */
export interface Diagnostic {
  readonly kind: DiagnosticKind;
  /** What happened and what to do. */
  readonly text: string;
  /** Time of the latest occurrence, milliseconds since 1970 UTC. */
  readonly time: number;
  /** Number of occurrences. */
  readonly count: number;
}

/** Maximum number of different diagnostics; the oldest is dropped first. */
const KEPT = 50;

/** Collects diagnostics: each is reported once, and its occurrences are counted. */
export class Diagnostics {
  readonly #all = liveValue<readonly Diagnostic[]>([], this.faultsOf('a receiver'));
  readonly #warn: Warn;
  readonly #now: () => number;

  constructor(warn: Warn, now: () => number) {
    this.#warn = isolatedWarn(warn);
    this.#now = now;
  }

  get $all(): LiveValue<readonly Diagnostic[]> {
    return this.#all;
  }

  /** @param cause the error behind it; the console shows its stack. */
  report(kind: DiagnosticKind, text: string, cause?: unknown): void {
    const all = this.#all.get();
    const known = all.find((diagnostic) => diagnostic.kind === kind && diagnostic.text === text);
    const others = all.filter((diagnostic) => diagnostic !== known);
    const diagnostic = { kind, text, time: this.#now(), count: (known?.count ?? 0) + 1 };
    this.#all.set([...others, diagnostic].slice(-KEPT));
    if (known === undefined) this.#warn(text, cause);
  }

  /**
   * Returns the function that takes errors of listeners. @param owner name of the object with the listeners, in words.
   */
  faultsOf(owner: string): OnListenerError {
    return (error) => this.report('listener-error', `a listener of ${owner} threw: ${String(error)}`, error);
  }
}

import { liveValue, type LiveValue } from '../live/live-value.js';
import type { OnListenerError } from '../live/listener.js';
import { isolatedWarn, type Warn } from '../live/warn.js';

/** What a developer should know of, a closed set. */
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
  | 'source-error'
  | 'listener-error';

/** Something that a developer should know, found by a receiver while it runs. */
export interface Diagnostic {
  readonly kind: DiagnosticKind;
  /** What happened and what to do. */
  readonly text: string;
  /** Milliseconds since 1970 UTC, of the latest. */
  readonly time: number;
  /** How often. */
  readonly count: number;
}

/** Different notices that are kept; the oldest goes first. */
const KEPT = 50;

/** Keeps what a developer should know; says each thing once, and counts how often it happened. */
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

  /** @param cause what was thrown, for the console to show with its stack. */
  report(kind: DiagnosticKind, text: string, cause?: unknown): void {
    const all = this.#all.get();
    const known = all.find((diagnostic) => diagnostic.kind === kind && diagnostic.text === text);
    const others = all.filter((diagnostic) => diagnostic !== known);
    const diagnostic = { kind, text, time: this.#now(), count: (known?.count ?? 0) + 1 };
    this.#all.set([...others, diagnostic].slice(-KEPT));
    if (known === undefined) this.#warn(text, cause);
  }

  /** Takes what listeners throw. @param owner what they listen to, in words. */
  faultsOf(owner: string): OnListenerError {
    return (error) => this.report('listener-error', `a listener of ${owner} threw: ${String(error)}`, error);
  }
}

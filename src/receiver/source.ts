import type { RawFix } from '../core/fix/fix.js';
import type { NoFixError } from '../core/fix/no-fix-error.js';
import type { AccessReading, Level } from './access.js';

/** What is asked of a source, the strictest of all who follow at the time. */
export interface Demand {
  /** Metres; absent when any accuracy will do. */
  readonly accuracy?: number;
  /** Seconds a position may be old when it is delivered first. */
  readonly maxAge: number;
}

/** Where a source puts what it finds. */
export interface SourceSink {
  fix(raw: RawFix): void;
  /** A failure. `no-signal` and `timed-out` may pass; the watch goes on. Any other kind ends the watch. */
  trouble(error: NoFixError): void;
  /** What happens next does not join on to what was before: a pause in a recording. */
  gap(): void;
  /** There will be no more fixes: a recording has ended. */
  end(): void;
}

/** Where raw fixes come from. */
export interface Source {
  /** For messages. */
  readonly name: string;
  readonly supported: boolean;
  /** What stands in the way now. Never prompts. */
  readAccess(): Promise<AccessReading>;
  /** Calls back whenever a new reading may differ. Returns what ends that. */
  onAccess(listener: () => void): () => void;
  /** Asks the user and waits for the answer, however long it takes. Settles on an answer of any kind. */
  prompt(level: Level): Promise<void>;
  /** Starts the device's receiver. Returns what releases it. */
  watch(demand: Demand, sink: SourceSink): () => void;
  /** Shows a failure that nobody handled to the user, where there is a screen. */
  showUnhandled?(error: NoFixError): void;
}

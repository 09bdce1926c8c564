import type { RawFix } from '../core/fix/fix.js';
import type { NoFixError } from '../core/fix/no-fix-error.js';
import type { Note } from '../core/formats/track-sink.js';
import type { AccessReading, AccessLevel } from './access.js';
import type { Life, WhenHidden } from './life.js';

/** What is asked of a source, the strictest of all who follow at the time. */
export interface Demand {
  /** Metres wanted; absent for what the device gives of itself. */
  readonly accuracy?: number;
  /** Seconds a position may be old when it is delivered first. */
  readonly maxAge: number;
  /** Seconds between fixes that will do; absent when every one is wanted. */
  readonly every?: number;
  /** Whether to go on while the app is hidden, where the platform lets it. */
  readonly background?: boolean;
  /** Words for the sign that the platform shows meanwhile. */
  readonly sign?: string;
}

/** Where a source puts what it finds. */
export interface SourceSink {
  fix(raw: RawFix): void;
  /** Several fixes at once, held back while the app or the device slept. In any order; each keeps its own time. */
  bundle(raws: readonly RawFix[]): void;
  /** A failure. `no-signal` and `timed-out` may pass; the watch goes on. Any other kind ends the watch. */
  error(error: NoFixError): void;
  /** What happens next does not join on to what was before: a pause in a recording. */
  gap(): void;
  /** There will be no more fixes: a recording has ended. */
  end(): void;
}

/** What happens to a source beside the fixes. */
export type SourceEvent =
  /** What stands in the way may be another now: read it anew. */
  | { readonly kind: 'access' }
  /** A line of what the source reads was left out: its number, and what was wrong with it. */
  | ({ readonly kind: 'note' } & Note);

/**
 * Where raw fixes come from. The first part is what every source does; the rest is what only some platforms let an
 * app do, and a source that cannot leaves it out.
 */
export interface Source {
  /** For messages. */
  readonly name: string;
  readonly supported: boolean;
  /** What stands in the way now; what is left out is unknown. Never prompts. */
  readAccess(): Promise<Partial<AccessReading>>;
  /** Asks the user and waits for the answer, however long it takes. Settles on an answer of any kind. */
  prompt(level: AccessLevel): Promise<void>;
  /** Starts the device's receiver. Returns what releases it. */
  watch(demand: Demand, sink: SourceSink): () => void;

  /**
   * Calls back with what happens beside the fixes. Returns what ends that. Left out by a source of which the access
   * never changes.
   */
  onEvent?(listener: (event: SourceEvent) => void): () => void;
  /**
   * Lets go of all that the source holds by itself, and ends its watches; closing twice is harmless. Left out by a
   * source that holds nothing once nobody watches or listens. A receiver does not close its source, which may have
   * other users.
   */
  close?(): void;
  /** Shows a failure that nobody handled to the user, where there is a screen. */
  showUnhandled?(error: NoFixError): void;
  /** The platform's own last position. Never prompts, never waits for the device. */
  cached?(): Promise<RawFix | undefined>;
  /**
   * Asks the user to turn the device's switch on, or up to what is demanded; no dialog where it is already. May be
   * `undefined` as long as the source does not know whether it can.
   */
  readonly turnOnSwitch?: ((demand: Demand) => Promise<'on' | 'declined' | 'impossible'>) | undefined;
  /** Opens the app's settings, or the switch's own; resolves with whether it did, once the user is back. */
  readonly openSettings?: ((page: 'app' | 'switch') => Promise<boolean>) | undefined;
  /** Keeps the screen on; resolves with what ends that, or `undefined` when it could not. */
  keepScreenOn?(): Promise<(() => void) | undefined>;
  /** Whether the user is acting on the page just now; `undefined` when that is not known. */
  userActing?(): boolean | undefined;
  readonly life?: Life;
  /** What the platform does with such a watch while the app is hidden, under the level that is granted. */
  whenHidden?(demand: Demand, level: AccessReading['level']): WhenHidden;
  /** Seconds between fixes at the quickest. */
  readonly minInterval?: number;
}

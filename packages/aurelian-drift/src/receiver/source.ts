import type { RawFix } from '../core/fix/fix.js';
import type { NoFixError } from '../core/fix/no-fix-error.js';
import type { Note } from '../core/formats/track-sink.js';
import type { AccessReading, AccessLevel } from './access.js';
import type { Life, WhenHidden } from './life.js';

/** Demands on a source: the strictest of all follows at the time. */
export interface Demand {
  /** Wanted accuracy in metres; absent for the default of the device. */
  readonly accuracy?: number;
  /** Maximum age in seconds of the first position. */
  readonly maxAge: number;
  /** Sufficient seconds between fixes; absent when every fix is wanted. */
  readonly every?: number;
  /** Whether to continue while the app is hidden, where the platform allows it. */
  readonly background?: boolean;
  /** Text of the notification that the platform shows while the app is hidden. */
  readonly sign?: string;
}

/** Takes the deliveries of a source. */
export interface SourceSink {
  fix(raw: RawFix): void;
  /** Several fixes at once, held back while the app or the device slept. In any order; each keeps its own time. */
  bundle(raws: readonly RawFix[]): void;
  /** A failure. `no-signal` and `timed-out` may pass; the watch goes on. Any other kind ends the watch. */
  error(error: NoFixError): void;
  /** The next fix does not continue the path, as after a pause in a recording. */
  gap(): void;
  /** There will be no more fixes: a recording has ended. */
  end(): void;
}

/**
 * Releases a watch when it is called. A source whose platform must not see a watch end while the app still follows has
 * the two methods: another demand changes the watch, and duty cycling lets it rest.
 */
export interface WatchRelease {
  (): void;
  /** Goes on with another demand, and ends a rest. */
  change?(demand: Demand): void;
  /**
   * Needs no fix until a time, or until the user has moved some metres from the newest fix; the platform then goes on
   * by itself, by its own alarm. Returns whether it can.
   *
   * @param until milliseconds since 1970 UTC.
   */
  rest?(until: number, beyond: number | undefined): boolean;
}

/** Events of a source beside the fixes. */
export type SourceEvent =
  /** The access may have changed: read it again. */
  | { readonly kind: 'access' }
  /** A line of what the source reads was left out: its number, and what was wrong with it. */
  | ({ readonly kind: 'note' } & Note);

/**
 * A source of raw fixes. Every source has the first members; the others depend on the platform, and a source leaves out
 * those that it does not support.
 */
export interface Source {
  /** Name for messages. */
  readonly name: string;
  readonly supported: boolean;
  /** Whether the page runs inside an app: then texts speak of the settings of the app. Default false. */
  readonly inApp?: boolean | undefined;
  /** Reads the access without a prompt; fields that are left out are unknown. */
  readAccess(): Promise<Partial<AccessReading>>;
  /** Asks the user and waits for the answer, however long it takes. Resolves for an answer of any kind. */
  prompt(level: AccessLevel): Promise<void>;
  /** Starts the receiver of the device. Returns the function that releases it. */
  watch(demand: Demand, sink: SourceSink): WatchRelease;

  /**
   * Calls the listener with events beside the fixes. Returns the function that unsubscribes. Left out by a source whose
   * access never changes.
   */
  onEvent?(listener: (event: SourceEvent) => void): () => void;
  /**
   * Releases everything that the source holds, and ends its watches; closing twice is harmless. Left out by a source
   * that holds nothing without watches and listeners. A receiver does not close its source, which may have other users.
   */
  close?(): void;
  /** Shows a failure that nobody handled to the user, where there is a screen. */
  showUnhandled?(error: NoFixError): void;
  /** Last position of the platform. Never prompts, never waits for the device. */
  cached?(): Promise<RawFix | undefined>;
  /**
   * Asks the user to turn on the location switch, up to the demands; shows no dialog where it is on already. May be
   * `undefined` while the source does not know whether it can.
   */
  readonly turnOnSwitch?: ((demand: Demand) => Promise<'on' | 'declined' | 'impossible'>) | undefined;
  /** Opens the settings of the app or of the switch. Resolves with whether it did, when the user is back. */
  readonly openSettings?: ((page: 'app' | 'switch') => Promise<boolean>) | undefined;
  /** Keeps the screen on. Resolves with the function that ends this, or `undefined` when it failed. */
  keepScreenOn?(): Promise<(() => void) | undefined>;
  /** Whether there is a current user action on the page; `undefined` when that is unknown. */
  userActing?(): boolean | undefined;
  readonly life?: Life;
  /** What the platform does with a watch while the app is hidden, at the granted level. */
  whenHidden?(demand: Demand, level: AccessReading['level']): WhenHidden;
  /**
   * Whether its fixes keep the times of a recording, which may be long ago: none of them counts as stored. Default
   * false.
   */
  readonly keepsTimes?: boolean;
  /**
   * Whether the platform itself gives no position older than `maxAge` allows. A fix with an odd date is then believed
   * when no other one comes for 5 s: the clocks differ, as in tests with a clock of their own. It is marked `cached`.
   * Default false: such a fix is never the answer to a request for a new one.
   */
  readonly honoursMaxAge?: boolean;
  /** Minimum seconds between fixes. */
  readonly minInterval?: number;
}

import { confidenceFactors, type Confidence } from '../core/fix/confidence.js';
import type { RawFix } from '../core/fix/fix.js';
import { distance } from '../core/geodesy/distance.js';
import { closedByUsing } from '../live/dispose.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import type { Demand, SourceSink } from '../receiver/source.js';
import { ABILITIES, type Ability } from './bridge-abilities.js';
import { unpack } from './bridge-messages.js';
import { readPageMessage, type PageMessage } from './bridge-page-messages.js';
import { BRIDGE_VERSION, MOST } from './bridge-version.js';
import type { BridgePort } from './bridge-ports.js';
import type { SimulatedDevice } from './simulated-device.js';

/** Options of `simulatedShell`. */
export interface SimulatedShellOptions {
  /** Confidence of the stated radii, in percent. Default 68, as on native platforms. */
  readonly confidence?: Confidence;
  /** Abilities of the shell. Default: all. */
  readonly abilities?: readonly Ability[];
  /** Background behaviour that it reports. Default `by-level`; the device itself decides what happens. */
  readonly background?: 'none' | 'by-level' | 'with-sign';
  /** Origins of the pages that it lets speak. Default: any. */
  readonly origins?: readonly string[];
  /** Clock of its alarms. Default: the clock of the platform. */
  readonly clock?: Clock;
}

/** A pretend native shell. */
export interface SimulatedShell {
  /** Messages of the page that it refused, and those of its own that the page refused, with the reason. */
  readonly refused: readonly string[];
  /** Starts again, as after a crash: it has forgotten the page, and asks it to say hello. */
  restart(): void;
  /** Disconnects it from the device and the port. */
  close(): void;
}

/** Accuracy in metres, and seconds, with which a resting shell watches for movement by networks alone. */
const COARSE = { accuracy: 500, every: 15 };
let sessions = 0;

/**
 * A pretend native shell at the other end of a bridge's port: it does what a `SimulatedDevice` does, and reports it in
 * the messages of docs/bridge.md.
 */
export function simulatedShell(
  port: BridgePort,
  device: SimulatedDevice,
  options: SimulatedShellOptions = {},
): SimulatedShell {
  return closedByUsing(new Shell(port, device, options));
}

interface ShellWatch {
  demand: Demand;
  release: () => void;
}

class Shell implements SimulatedShell {
  readonly refused: string[] = [];
  readonly #port: BridgePort;
  readonly #device: SimulatedDevice;
  readonly #options: Required<Omit<SimulatedShellOptions, 'origins'>> &
    Pick<SimulatedShellOptions, 'origins'>;
  readonly #watches = new Map<number, ShellWatch>();
  readonly #ends: (() => void)[];
  #session: string | undefined;
  #releaseScreen: (() => void) | undefined;

  constructor(port: BridgePort, device: SimulatedDevice, options: SimulatedShellOptions) {
    this.#port = port;
    this.#device = device;
    this.#options = {
      confidence: 68,
      abilities: ABILITIES,
      background: 'by-level',
      clock: systemClock,
      ...options,
    };
    const receive = ({ data }: { data: unknown }) => this.#receive(data);
    port.addEventListener('message', receive);
    port.start?.();
    this.#ends = [
      device.onEvent(() => void device.readAccess().then((access) => this.#say({ kind: 'access', access }))),
      device.life.onEvent(({ kind: event }) => this.#say({ kind: 'life', event })),
      () => port.removeEventListener?.('message', receive),
    ];
  }

  restart(): void {
    this.#forget();
    this.#post({ kind: 'greet' });
  }

  close(): void {
    for (const end of this.#ends.splice(0)) end();
    this.#forget();
  }

  #forget(): void {
    for (const { release } of this.#watches.values()) release();
    this.#watches.clear();
    this.#releaseScreen?.();
    this.#releaseScreen = undefined;
    this.#session = undefined;
  }

  #post(message: Record<string, unknown>): void {
    this.#port.postMessage({ drift: BRIDGE_VERSION, ...message });
  }

  /** Nothing is told to a page that has not said hello. */
  #say(message: Record<string, unknown>): void {
    if (this.#session !== undefined) this.#post(message);
  }

  #refuse(why: string, id?: number): void {
    this.refused.push(why);
    this.#post({ kind: 'refused', why, ...(id !== undefined && { id }) });
  }

  #receive(data: unknown): void {
    const messages = unpack(data);
    if (typeof messages === 'string') this.#refuse(messages);
    else
      for (const each of messages) {
        const read = readPageMessage(each);
        if (read.state === 'wrong') this.#refuse(read.reason);
        else if (read.state === 'read') void this.#obey(read.message);
      }
  }

  async #obey(message: PageMessage): Promise<void> {
    if (message.kind === 'hello') {
      this.#hello(message);
      return;
    }
    if (message.session === undefined || message.session !== this.#session) {
      this.#refuse(
        `${message.kind}: this is not the session of the page that said hello`,
        'id' in message ? message.id : undefined,
      );
      // A shell that knows no page has restarted.
      if (this.#session === undefined) this.#post({ kind: 'greet' });
      return;
    }
    const device = this.#device;
    const done = (id: number, result?: unknown) =>
      this.#say({ kind: 'done', id, ...(result !== undefined && { result }) });
    switch (message.kind) {
      case 'read-access':
        this.#say({ kind: 'access', id: message.id, access: await device.readAccess() });
        return;
      case 'ask':
        await device.prompt(message.level);
        done(message.id);
        return;
      case 'turn-on-switch': {
        const { accuracy } = message;
        done(
          message.id,
          await device.turnOnSwitch({ maxAge: 0, ...(accuracy !== undefined && { accuracy }) }),
        );
        return;
      }
      case 'open-settings':
        done(message.id, await device.openSettings(message.page));
        return;
      case 'last-fix': {
        const raw = await device.cached();
        done(message.id, raw === undefined ? undefined : this.#reported(raw));
        return;
      }
      case 'keep-screen-on':
        this.#releaseScreen?.();
        this.#releaseScreen = message.on ? await device.keepScreenOn() : undefined;
        done(message.id, true);
        return;
      case 'watch':
      case 'change':
        this.#watch(message);
        return;
      case 'rest':
        this.#rest(message.watch, message.until, message.beyond);
        return;
      case 'stop':
        this.#watches.get(message.watch)?.release();
        this.#watches.delete(message.watch);
        return;
      case 'refused':
        this.refused.push(message.why);
    }
  }

  #hello({ nonce, origin, versions }: Extract<PageMessage, { kind: 'hello' }>): void {
    const { origins, confidence, abilities, background } = this.#options;
    if (origins !== undefined && !origins.includes(origin)) {
      this.#refuse(`hello: pages of ${origin === '' ? 'no origin' : origin} may not speak here`);
      return;
    }
    if (!versions.includes(BRIDGE_VERSION)) {
      this.#refuse(`hello: only version ${BRIDGE_VERSION} is spoken here`);
      return;
    }
    this.#forget(); // another page, or the same one loaded again
    this.#session = `session-${++sessions}`;
    this.#post({
      kind: 'hello',
      nonce,
      version: BRIDGE_VERSION,
      session: this.#session,
      shell: 'simulated shell',
      confidence,
      abilities: [...abilities],
      background,
      quickest: this.#device.minInterval,
    });
  }

  #watch({
    watch,
    accuracy,
    every,
    sign,
    maxAge,
    background,
  }: Extract<PageMessage, { kind: 'watch' | 'change' }>) {
    this.#watches.get(watch)?.release();
    const demand = {
      maxAge,
      background,
      ...(accuracy !== undefined && { accuracy }),
      ...(every !== undefined && { every }),
      ...(sign !== undefined && { sign }),
    };
    this.#watches.set(watch, { demand, release: this.#device.watch(demand, this.#sinkOf(watch)) });
  }

  /** The receiver is off until the alarm, or until the networks show that the user has moved. */
  #rest(watch: number, until: number, beyond: number | undefined): void {
    const own = this.#watches.get(watch);
    if (own === undefined) return;
    own.release();
    const { clock } = this.#options;
    const ends: (() => void)[] = [];
    const end = () => {
      for (const each of ends.splice(0)) each();
    };
    const wake = () => {
      end();
      if (this.#watches.get(watch) === own) own.release = this.#device.watch(own.demand, this.#sinkOf(watch));
    };
    own.release = end;
    ends.push(clock.after(Math.max(0, (until - clock.now()) / 1000), wake));
    if (beyond !== undefined) ends.push(this.#whenMoved(beyond, wake));
  }

  #whenMoved(metres: number, wake: () => void): () => void {
    let from: RawFix | undefined;
    const see = (raw: RawFix) => {
      from ??= raw;
      if (distance(from, raw) > metres) wake();
    };
    return this.#device.watch(
      { maxAge: 0, background: true, ...COARSE },
      { fix: see, bundle: (raws) => raws.forEach(see), error() {}, gap() {}, end() {} },
    );
  }

  #sinkOf(watch: number): SourceSink {
    return {
      fix: (raw) => this.#say({ kind: 'fixes', watch, fixes: [this.#reported(raw)] }),
      bundle: (raws) => {
        for (let i = 0; i < raws.length; i += MOST) {
          const fixes = raws.slice(i, i + MOST).map((raw) => this.#reported(raw));
          this.#say({ kind: 'fixes', watch, fixes, late: true });
        }
      },
      error: (error) => this.#say({ kind: 'trouble', watch, failure: error.kind }),
      gap: () => this.#say({ kind: 'gap', watch }),
      end: () => this.#say({ kind: 'end', watch }),
    };
  }

  #reported(raw: RawFix): Record<string, unknown> {
    const factors = confidenceFactors(this.#options.confidence);
    return {
      ...raw,
      ...(typeof raw.accuracy === 'number' && { accuracy: raw.accuracy / factors.radius }),
      ...(typeof raw.altitudeAccuracy === 'number' && {
        altitudeAccuracy: raw.altitudeAccuracy / factors.altitude,
      }),
    };
  }
}

import { confidenceFactors, type Confidence } from '../core/fix/confidence.js';
import type { RawFix } from '../core/fix/fix.js';
import { closedByUsing } from '../live/dispose.js';
import type { SourceSink } from '../receiver/source.js';
import type { BridgePort } from './bridge.js';
import { ABILITIES, type Ability } from './bridge-abilities.js';
import { BRIDGE_VERSION, readPageMessage, type PageMessage } from './bridge-messages.js';
import type { SimulatedDevice } from './simulated-device.js';

/** Options of `simulatedShell`. */
export interface SimulatedShellOptions {
  /** Confidence of the stated radii, in percent. Default 68, as on native platforms. */
  readonly confidence?: Confidence;
  /** Abilities of the shell. Default: all. */
  readonly abilities?: readonly Ability[];
  /** Background behaviour that it reports. Default `by-level`; the device itself decides what happens. */
  readonly background?: 'none' | 'by-level' | 'with-sign';
}

/**
 * A pretend native shell at the other end of a bridge's port: it does what a `SimulatedDevice` does, and reports it in
 * the messages of docs/bridge.md. Returns the refused messages, and `close`, which disconnects it from the device and
 * the port.
 */
export function simulatedShell(
  port: BridgePort,
  device: SimulatedDevice,
  options: SimulatedShellOptions = {},
): { readonly refused: readonly string[]; close(): void } {
  const { confidence = 68, abilities = ABILITIES, background = 'by-level' } = options;
  const factors = confidenceFactors(confidence);
  const refused: string[] = [];
  const releases = new Map<number, () => void>();
  let releaseScreen: (() => void) | undefined;
  const send = (message: Record<string, unknown>) => port.postMessage({ drift: BRIDGE_VERSION, ...message });
  const done = (id: number, result?: unknown) =>
    send({ kind: 'done', id, ...(result !== undefined && { result }) });
  const reported = (raw: RawFix): Record<string, unknown> => ({
    ...raw,
    ...(typeof raw.accuracy === 'number' && { accuracy: raw.accuracy / factors.radius }),
    ...(typeof raw.altitudeAccuracy === 'number' && {
      altitudeAccuracy: raw.altitudeAccuracy / factors.altitude,
    }),
  });
  const sinkOf = (watch: number): SourceSink => ({
    fix: (raw) => send({ kind: 'fixes', watch, fixes: [reported(raw)] }),
    bundle: (raws) => send({ kind: 'fixes', watch, fixes: raws.map(reported), late: true }),
    error: (error) => send({ kind: 'trouble', watch, failure: error.kind }),
    gap: () => send({ kind: 'gap', watch }),
    end: () => send({ kind: 'end', watch }),
  });

  const obey = async (message: PageMessage): Promise<void> => {
    switch (message.kind) {
      case 'hello':
        send({
          kind: 'hello',
          shell: 'simulated shell',
          confidence,
          abilities: [...abilities],
          background,
          quickest: device.minInterval,
        });
        return;
      case 'read-access':
        send({ kind: 'access', id: message.id, access: await device.readAccess() });
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
        done(message.id, raw === undefined ? undefined : reported(raw));
        return;
      }
      case 'keep-screen-on':
        releaseScreen?.();
        releaseScreen = message.on ? await device.keepScreenOn() : undefined;
        done(message.id, true);
        return;
      case 'watch': {
        const { watch, accuracy, every, sign, maxAge, background: goOn } = message;
        const demand = {
          maxAge,
          background: goOn,
          ...(accuracy !== undefined && { accuracy }),
          ...(every !== undefined && { every }),
          ...(sign !== undefined && { sign }),
        };
        releases.set(watch, device.watch(demand, sinkOf(watch)));
        return;
      }
      case 'stop':
        releases.get(message.watch)?.();
        releases.delete(message.watch);
        return;
      case 'refused':
        refused.push(message.why);
    }
  };

  const receive = ({ data }: { data: unknown }) => {
    const read = readPageMessage(data);
    if (read.ok) void obey(read.message);
    else send({ kind: 'refused', why: read.reason });
  };
  const ends = [
    device.onEvent(() => void device.readAccess().then((access) => send({ kind: 'access', access }))),
    device.life.onEvent(({ kind: event }) => send({ kind: 'life', event })),
    () => port.removeEventListener?.('message', receive),
  ];
  port.addEventListener('message', receive);
  port.start?.();
  return closedByUsing({
    refused,
    close() {
      for (const end of [...ends.splice(0), ...releases.values()]) end();
      releases.clear();
      releaseScreen?.();
      releaseScreen = undefined;
    },
  });
}

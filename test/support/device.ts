import {
  NoFixError,
  Receiver,
  ahead,
  type FollowEvent,
  type NoFixKind,
  type RawFix,
  type ReceiverOptions,
  type SourceSink,
} from 'aurelian-drift';
import { SimulatedDevice, VirtualClock, type SimulatedDeviceOptions } from 'aurelian-drift/testing';
import { expect } from 'chai';

export const hut = { lat: 44.2, lon: -33.6 };
/** Two kilometres to the east. */
export const route = { parts: [[hut, ahead(hut, 90, 2000)]] };

/** A pretend device at the hut, and a receiver over it, on one virtual clock. */
export function setUp(options: SimulatedDeviceOptions = {}, more: Partial<ReceiverOptions> = {}) {
  const clock = new VirtualClock();
  const warnings: string[] = [];
  const device = new SimulatedDevice({ at: hut, reception: 'exact', clock, ...options });
  const start = () =>
    new Receiver({ source: device, purpose: 'Test.', clock, warn: (text) => warnings.push(text), ...more });
  return { clock, device, receiver: start(), warnings, start };
}

/** A listener that handles failures. */
export const takesOn = (event: FollowEvent) => event.kind === 'failed' && event.error;

/** A receiver whose source is driven by hand. */
export function played() {
  const { device, clock, receiver, warnings } = setUp({ permission: 'granted', route });
  let sink: SourceSink | undefined;
  device.watch = (_demand, given) => {
    sink = given;
    return () => {};
  };
  const at = (seconds: number, metres: number, more: Partial<RawFix> = {}): RawFix => ({
    ...ahead(hut, 90, metres),
    time: clock.now() + seconds * 1000,
    accuracy: 5,
    ...more,
  });
  return { clock, receiver, warnings, at, sink: () => sink! };
}

export async function failureOf(promise: Promise<unknown>): Promise<NoFixError> {
  try {
    await promise;
  } catch (error) {
    expect(error).to.be.instanceOf(NoFixError);
    return error as NoFixError;
  }
  throw new Error('there was no failure');
}

export async function kindOf(promise: Promise<unknown>): Promise<NoFixKind> {
  return (await failureOf(promise)).kind;
}

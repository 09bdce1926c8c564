import { ahead, type Clock, type NoFixKind, type Position } from 'aurelian-drift';
import {
  SimulatedDevice,
  scaledClock,
  type ScaledClock,
  type SimulatedDeviceOptions,
} from 'aurelian-drift/testing';

/* A pretend device for a page on a desk without a receiver. The panel beside it is in pretend-panel.ts. */

/** Behaviours of the pretend device: normal, and one for each kind of failure. */
export type Behaviour = 'well' | Exclude<NoFixKind, 'declined'>;

interface Script {
  /** The text that follows “Pretend device that”. */
  readonly label: string;
  readonly options: SimulatedDeviceOptions;
  /** What happens to it after it is made. */
  readonly then?: (device: SimulatedDevice, clock: Clock) => void;
  /** What the page requests, if it is not the default. */
  readonly accuracy?: number;
}

export const BEHAVIOURS: Readonly<Record<Behaviour, Script>> = {
  well: { label: 'works', options: {} },
  unsupported: { label: 'cannot locate', options: { access: { support: 'no' } } },
  insecure: { label: 'is on an insecure page', options: { access: { secure: 'no' } } },
  forbidden: { label: 'is in a frame without leave', options: { access: { policy: 'forbidden' } } },
  undeclared: {
    label: 'lacks a declaration',
    options: { access: { declaration: 'incomplete', undeclared: ['the purpose text'] } },
  },
  'switched-off': { label: 'is switched off', options: { switch: 'off', switchAnswer: 'impossible' } },
  refused: { label: 'is refused', options: { answer: 'refuse' } },
  barred: { label: 'is refused for good', options: { answer: 'bar' } },
  withdrawn: {
    label: 'loses the permission on the way',
    options: {},
    then: (device, clock) => {
      const unsubscribe = device.onEvent(() => {
        if (device.watches === 0 && device.prompts > 0) {
          unsubscribe();
          clock.after(120, () => device.withdraw());
        }
      });
    },
  },
  'approximate-only': { label: 'is roughly placed', options: { answer: 'approximate' }, accuracy: 50 },
  'no-signal': { label: 'hears no satellites', options: {}, then: (device) => (device.signal = false) },
  'timed-out': { label: 'is slow', options: { warmUp: 600 } },
  unknown: {
    label: 'fails in an unknown way',
    options: {},
    then: (device) => (device.prompt = () => Promise.reject(new Error('the pretend platform fell over'))),
  },
};

/** A pretend device and its clock. */
export interface Pretend {
  readonly device: SimulatedDevice;
  readonly clock: ScaledClock;
  readonly behaviour: Behaviour;
  /** Accuracy in metres that the page requests, if it is not the default. */
  readonly accuracy: number | undefined;
}

/** Whether the address of the page asks for a pretend device; on a server there is none. */
export const isPretend = () =>
  typeof location !== 'undefined' && new URLSearchParams(location.search).has('pretend');

/** The behaviour that ?pretend= names, else a device that works. */
export function behaviourAsked(): Behaviour {
  const asked = new URLSearchParams(location.search).get('pretend') ?? '';
  return Object.hasOwn(BEHAVIOURS, asked) ? (asked as Behaviour) : 'well';
}

/**
 * A pretend device.
 *
 * @param tempo how many times faster than real time its clock runs, unless ?tempo= says it.
 */
export function makePretend(behaviour: Behaviour, options: SimulatedDeviceOptions, tempo = 1): Pretend {
  const clock = scaledClock(tempoAsked(tempo), Date.now());
  const { options: own, then, accuracy } = BEHAVIOURS[behaviour];
  const device = new SimulatedDevice({ ...options, ...own, clock });
  then?.(device, clock);
  return { device, clock, behaviour, accuracy };
}

/** The tempo that ?tempo= in the address says, within what a clock takes. */
export function tempoAsked(otherwise: number): number {
  const asked = Number(new URLSearchParams(location.search).get('tempo') ?? otherwise);
  return asked >= 0 && asked <= 1000 ? asked : otherwise;
}

/** A round of 1.2 km from a place and back to it, for a device that was put somewhere and is to move on. */
export function roundFrom(place: Position): Position[] {
  const corners = [ahead(place, 60, 400), ahead(place, 0, 400)];
  return [place, ...corners, place];
}

import type { Clock, NoFixKind } from 'aurelian-drift';
import { SimulatedDevice, type SimulatedDeviceOptions } from 'aurelian-drift/testing';

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

/** A pretend device with this behaviour. */
export function pretendDevice(
  behaviour: Behaviour,
  clock: Clock,
  options: SimulatedDeviceOptions,
): SimulatedDevice {
  const script = BEHAVIOURS[behaviour];
  const device = new SimulatedDevice({ ...options, ...script.options, clock });
  script.then?.(device, clock);
  return device;
}

/** Fills a banner that says that the device is a pretend one, with a choice of behaviours. */
export function pretendBanner(
  banner: HTMLElement,
  text: string,
  now: Behaviour,
  choose: (behaviour: Behaviour) => void,
  offered: readonly Behaviour[] = Object.keys(BEHAVIOURS) as Behaviour[],
): void {
  const label = document.createElement('label');
  const select = document.createElement('select');
  for (const name of offered) {
    const option = document.createElement('option');
    option.value = name;
    option.textContent = BEHAVIOURS[name].label;
    select.append(option);
  }
  select.value = now;
  select.addEventListener('change', () => choose(select.value as Behaviour));
  label.append('Pretend device that ', select);
  const words = document.createElement('span');
  words.textContent = text;
  banner.replaceChildren(label, words);
  banner.hidden = false;
}

import { NoFixError, noFixError } from '../core/fix/no-fix-error.js';
import { fixFrom, type Fix, type RawFix } from '../core/fix/fix.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import type { SimulatedDevice } from './simulated-device.js';

/** Object with the platform's interfaces: by default the `navigator` of the page. */
export interface NavigatorLike {
  readonly geolocation?: unknown;
  readonly permissions?: unknown;
}

/** Options of `installInPlatform`. */
export interface PlatformDoubleOptions {
  /** Object to install into. Default: the `navigator` of the page. */
  readonly navigator?: NavigatorLike;
  /** Clock of the device, for time-outs. Default: the clock of the platform. */
  readonly clock?: Clock;
}

interface Settings {
  readonly timeout?: number;
  readonly maximumAge?: number;
}

/** Codes of the positioning errors of the platform (W3C Geolocation, section 8). */
const CODES = { PERMISSION_DENIED: 1, POSITION_UNAVAILABLE: 2, TIMEOUT: 3 } as const;

/**
 * Installs a simulated device in the place of the platform's positioning and permission interfaces, so that any app can
 * be tested with it. Returns the function that removes it.
 */
export function installInPlatform(device: SimulatedDevice, options: PlatformDoubleOptions = {}): () => void {
  const { navigator: target = globalThis.navigator, clock = systemClock } = options;
  const before = (['geolocation', 'permissions'] as const).map(
    (name) => [name, Object.getOwnPropertyDescriptor(target, name)] as const,
  );
  const define = (name: string, value: unknown) =>
    Object.defineProperty(target, name, { value, configurable: true, enumerable: true });
  define('geolocation', geolocationOf(device, clock));
  define('permissions', permissionsOf(device, target.permissions));
  return () => {
    for (const [name, descriptor] of before) {
      if (descriptor === undefined) Reflect.deleteProperty(target, name);
      else Object.defineProperty(target, name, descriptor);
    }
  };
}

function geolocationOf(device: SimulatedDevice, clock: Clock): object {
  const watches = new Map<number, () => void>();
  let count = 0;
  const clearWatch = (id: number) => {
    watches.get(id)?.();
    watches.delete(id);
  };
  const watchPosition = (
    found: (position: object) => void,
    failed?: ((error: object) => void) | null,
    settings: Settings = {},
  ): number => {
    const id = ++count;
    let over = false;
    let release = () => {};
    let cancel = () => {};
    watches.set(id, () => {
      over = true;
      cancel();
      release();
    });
    // As in the platform: the time-out runs from the answer to the prompt, and again after each position.
    const wait = () => {
      cancel();
      const { timeout = Infinity } = settings;
      if (timeout < 1e9)
        cancel = clock.after(timeout / 1000, () => failed?.(errorOf(new NoFixError('timed-out'))));
    };
    void admit(device).then((error) => {
      if (over) return;
      if (error !== undefined) {
        failed?.(errorOf(error));
        return;
      }
      wait();
      const take = (raw: RawFix) => {
        wait();
        found(positionOf(fixFrom(raw)));
      };
      release = device.watch(
        { maxAge: (settings.maximumAge ?? 0) / 1000 },
        {
          fix: take,
          bundle: (raws) => raws.forEach(take),
          error: (failure) => failed?.(errorOf(failure)),
          gap() {},
          end() {},
        },
      );
    });
    return id;
  };
  return {
    watchPosition,
    clearWatch,
    getCurrentPosition(
      found: (position: object) => void,
      failed?: ((error: object) => void) | null,
      settings: Settings = {},
    ): void {
      const once =
        <T>(action: ((value: T) => void) | null | undefined) =>
        (value: T) => {
          clearWatch(id);
          action?.(value);
        };
      const id = watchPosition(once(found), once(failed), settings);
    },
  };
}

/** Asks as the call of the platform does, and returns the obstacle, if any. */
async function admit(device: SimulatedDevice): Promise<NoFixError | undefined> {
  try {
    const { permission } = await device.readAccess();
    if (permission === 'not-asked' || permission === 'refused') await device.prompt('foreground');
    const access = await device.readAccess();
    if (access.permission !== 'granted') return new NoFixError('refused');
    return access.switch === 'off' ? new NoFixError('switched-off') : undefined;
  } catch (error) {
    return noFixError(error);
  }
}

function permissionsOf(device: SimulatedDevice, own: unknown): object {
  const original = own as { query?: (descriptor: { name: string }) => Promise<unknown> } | undefined;
  return {
    async query(descriptor: { name: string }): Promise<unknown> {
      if (descriptor.name !== 'geolocation') {
        if (original?.query === undefined)
          throw new TypeError(`the permission "${descriptor.name}" is unknown`);
        return original.query(descriptor);
      }
      const status = Object.assign(new EventTarget(), {
        name: 'geolocation',
        state: await stateOf(device),
        onchange: null as ((event: Event) => void) | null,
      });
      device.onEvent(() => {
        void stateOf(device).then((state) => {
          if (state === status.state) return;
          status.state = state;
          const event = new Event('change');
          status.dispatchEvent(event);
          status.onchange?.(event);
        });
      });
      return status;
    },
  };
}

async function stateOf(device: SimulatedDevice): Promise<'granted' | 'denied' | 'prompt'> {
  const { permission } = await device.readAccess();
  return permission === 'granted' ? 'granted' : permission === 'barred' ? 'denied' : 'prompt';
}

function errorOf({ kind, message }: NoFixError): object {
  const denied = kind === 'refused' || kind === 'barred';
  const code = denied
    ? CODES.PERMISSION_DENIED
    : kind === 'timed-out'
      ? CODES.TIMEOUT
      : CODES.POSITION_UNAVAILABLE;
  return { code, message, ...CODES };
}

function positionOf(fix: Fix): object {
  const {
    lat,
    lon,
    accuracy = 0,
    altitude = null,
    altitudeAccuracy = null,
    course = null,
    speed = null,
  } = fix;
  const coords = {
    latitude: lat,
    longitude: lon,
    accuracy,
    altitude,
    altitudeAccuracy,
    heading: speed === 0 ? NaN : course,
    speed,
  };
  const position = { coords, timestamp: fix.time };
  return { ...position, toJSON: () => position };
}

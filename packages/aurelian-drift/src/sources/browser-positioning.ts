import { NoFixError } from '../core/fix/no-fix-error.js';
import type { RawFix } from '../core/fix/fix.js';
import type { AccessReading } from '../receiver/access.js';
import type { Source } from '../receiver/source.js';
import { demandLevel } from '../receiver/usage.js';

/** A source without the report of changes, which a page with a single fix need not load: see `accessChanges`. */
export interface BrowserPositioning extends Source {
  /** The browser's state of the permission; `undefined` where it reports none. */
  permissionStatus(): Promise<PermissionStatus | undefined>;
  /** The user may be asked again: the permission has changed. */
  forgetRefusal(): void;
}

/**
 * Milliseconds within which a request with time-out 0 fails, if the time-out does not wait for the answer of the user.
 */
const UNDER_THE_PROMPT = 500;

/**
 * The positioning interface of the browser (W3C Geolocation, Permissions, Permissions Policy): access, the prompt, and
 * the watch.
 *
 * The reports of the browser are used as they are; what it does not report, such as the switch of the device, is
 * unknown. A state of "denied" means that the browser will not prompt again: `barred`. Altitudes are above the
 * ellipsoid, as in the standard.
 */
export function browserPositioning(): BrowserPositioning {
  const geolocation = typeof navigator === 'undefined' ? undefined : navigator.geolocation;
  let status: Promise<PermissionStatus | undefined> | undefined;
  /** A prompt that was closed without a lasting decision: the state of the browser is still "prompt". */
  let refusedLately = false;

  const permissionStatus = () => {
    status ??= (async () => {
      try {
        return await navigator.permissions.query({ name: 'geolocation' });
      } catch {
        return undefined; // no such interface, or not for this permission
      }
    })();
    return status;
  };

  return {
    name: 'the browser',
    supported: geolocation !== undefined,
    honoursMaxAge: true,

    async readAccess() {
      const state = geolocation === undefined ? undefined : (await permissionStatus())?.state;
      const permission = permissionOf(state, refusedLately);
      return {
        support: geolocation === undefined ? 'no' : 'yes',
        secure: typeof isSecureContext === 'undefined' ? 'unknown' : isSecureContext ? 'yes' : 'no',
        policy: policyOf(),
        permission,
        // Without the state of the permission, a refusal may be permanent or not: only another request shows it.
        askable: permission === 'barred' ? 'no' : state === undefined ? 'unknown' : 'yes',
        level: permission === 'granted' ? 'foreground' : permission === 'unknown' ? 'unknown' : 'none',
        scope: 'origin',
      };
    },

    permissionStatus,
    forgetRefusal: () => (refusedLately = false),

    async prompt() {
      if (geolocation === undefined) return;
      const held = await permissionStatus();
      await new Promise<void>((resolve) => {
        // The standard has no call that only asks. A watch asks too; it is cancelled as soon as the user has answered,
        // which
        // the state of the permission reports before any position arrives. A request with time-out 0 is no alternative:
        // it
        // times out during the prompt.
        const answered = () => {
          geolocation.clearWatch(id);
          held?.removeEventListener('change', answered);
          resolve();
        };
        const failed = (error: GeolocationPositionError) => {
          refusedLately = error.code === error.PERMISSION_DENIED;
          answered();
        };
        const id = geolocation.watchPosition(answered, failed, { maximumAge: Infinity });
        held?.addEventListener('change', answered);
        // Where the state stays "prompt" after a one-time grant, and the device is silent, this request finds the
        // answer:
        // in the standard its time-out begins with the answer. Where it begins during the prompt, the request fails at
        // once, which gives no information.
        const asked = performance.now();
        geolocation.getCurrentPosition(
          answered,
          (error) => {
            if (error.code !== error.TIMEOUT || performance.now() - asked > UNDER_THE_PROMPT) failed(error);
          },
          { maximumAge: Infinity, timeout: 0 },
        );
      });
    },

    watch(demand, sink) {
      if (geolocation === undefined) {
        sink.error(new NoFixError('unsupported'));
        return () => {};
      }
      const id = geolocation.watchPosition(
        (found) => sink.fix(rawFixOf(found)),
        (error) => void failureOf(error, permissionStatus).then((failure) => sink.error(failure)),
        {
          enableHighAccuracy: demandLevel(demand) === 'fine',
          maximumAge: demand.maxAge * 1000,
        },
      );
      return () => geolocation.clearWatch(id);
    },
  };
}

/** The last position of the browser; `undefined` when it has none. Never prompts once the permission is granted. */
export function lastPosition(): Promise<RawFix | undefined> {
  return new Promise((resolve) => {
    // With time-out 0, the platform answers with what it has, or not at all.
    navigator.geolocation.getCurrentPosition(
      (found) => resolve(rawFixOf(found)),
      () => resolve(undefined),
      { maximumAge: Infinity, timeout: 0 },
    );
  });
}

function permissionOf(
  state: PermissionState | undefined,
  refusedLately: boolean,
): AccessReading['permission'] {
  if (state === 'granted') return 'granted';
  if (state === 'denied') return 'barred';
  if (refusedLately) return 'refused';
  return state === 'prompt' ? 'not-asked' : 'unknown';
}

/** Chromium's interface to the permissions policy; other browsers have none. */
function policyOf(): AccessReading['policy'] {
  if (typeof document === 'undefined') return 'unknown';
  const { featurePolicy } = document as Document & {
    featurePolicy?: { allowsFeature(name: string): boolean };
  };
  if (featurePolicy === undefined) return 'unknown';
  return featurePolicy.allowsFeature('geolocation') ? 'allowed' : 'forbidden';
}

/** The position of the platform as a raw fix; nulls and NaNs are handled by the check of fixes. */
function rawFixOf({ coords, timestamp }: GeolocationPosition): RawFix {
  return {
    time: timestamp,
    lat: coords.latitude,
    lon: coords.longitude,
    accuracy: coords.accuracy,
    altitude: coords.altitude,
    altitudeDatum: 'ellipsoid',
    altitudeAccuracy: coords.altitudeAccuracy,
    course: coords.heading,
    speed: coords.speed,
  };
}

async function failureOf(
  error: GeolocationPositionError,
  permissionStatus: () => Promise<PermissionStatus | undefined>,
): Promise<NoFixError> {
  const detail = { cause: error, note: error.message };
  switch (error.code) {
    case error.PERMISSION_DENIED: {
      const state = (await permissionStatus())?.state;
      return new NoFixError(state === 'denied' ? 'barred' : 'refused', detail);
    }
    case error.POSITION_UNAVAILABLE:
      return new NoFixError('no-signal', detail);
    case error.TIMEOUT:
      return new NoFixError('timed-out', detail);
    default:
      return new NoFixError('unknown', detail);
  }
}

import { closest } from '../core/check/suggest.js';
import type { AccessLevel } from '../receiver/access.js';

/*
 * Names of the declarations that positioning needs on each platform, as documented by their makers. This is the only
 * file with such names.
 */

/** Type of a value in a property list. */
export type PlistType = 'string' | 'array' | 'dict' | 'boolean';

/** Keys of an app's property list, and their use. */
export const PLIST_KEYS: Readonly<
  Record<string, { readonly type: PlistType; readonly level?: AccessLevel; readonly obsolete?: string }>
> = {
  NSLocationWhenInUseUsageDescription: { type: 'string', level: 'foreground' },
  NSLocationAlwaysAndWhenInUseUsageDescription: { type: 'string', level: 'background' },
  NSLocationAlwaysUsageDescription: {
    type: 'string',
    obsolete: 'NSLocationAlwaysAndWhenInUseUsageDescription',
  },
  NSLocationUsageDescription: { type: 'string', obsolete: 'NSLocationWhenInUseUsageDescription' },
  NSLocationTemporaryUsageDescriptionDictionary: { type: 'dict' },
  NSLocationDefaultAccuracyReduced: { type: 'boolean' },
  UIBackgroundModes: { type: 'array' },
};

export const PLIST = {
  foreground: 'NSLocationWhenInUseUsageDescription',
  background: 'NSLocationAlwaysAndWhenInUseUsageDescription',
  modes: 'UIBackgroundModes',
  mode: 'location',
  reduced: 'NSLocationDefaultAccuracyReduced',
  languages: 'CFBundleLocalizations',
} as const;

/** Keys for other purposes with similar names, which are not reported as misspelt. */
const OTHER_PLIST_KEYS: readonly string[] = [
  'NSMotionUsageDescription',
  'NSCameraUsageDescription',
  'NSContactsUsageDescription',
  'NSCalendarsUsageDescription',
  'NSMicrophoneUsageDescription',
  'NSLocalNetworkUsageDescription',
  'NSPhotoLibraryUsageDescription',
];

/** Names of at least this length may have one wrong letter in eight. */
const NEAR = 0.12;

/** The key that a misspelt one stands for; `undefined` for a key with another purpose. */
export function meantKey(key: string): string | undefined {
  return OTHER_PLIST_KEYS.includes(key) ? undefined : closest(key, Object.keys(PLIST_KEYS), NEAR);
}

/** The permission that a misspelt one stands for, also without its prefix; `undefined` for one with another purpose. */
export function meantPermission(name: string): string | undefined {
  if (MANIFEST_PERMISSIONS.includes(name) || OTHER_PERMISSIONS.includes(name)) return undefined;
  return (
    MANIFEST_PERMISSIONS.find((known) => known.endsWith(`.${name}`)) ??
    closest(name, MANIFEST_PERMISSIONS, NEAR)
  );
}

/** Choices in the prompt of a system that reads property lists, by level. */
export const PLIST_CHOICES: Readonly<Record<'foreground' | 'background', readonly string[]>> = {
  foreground: ['once', 'while the app is used', 'not at all', 'precise or approximate'],
  background: ['go on as before', 'always'],
};

const permission = (name: string) => `android.permission.${name}`;

export const MANIFEST = {
  namespace: 'http://schemas.android.com/apk/res/android',
  approximate: permission('ACCESS_COARSE_LOCATION'),
  precise: permission('ACCESS_FINE_LOCATION'),
  background: permission('ACCESS_BACKGROUND_LOCATION'),
  service: permission('FOREGROUND_SERVICE'),
  locationService: permission('FOREGROUND_SERVICE_LOCATION'),
  serviceType: 'location',
} as const;

export const MANIFEST_PERMISSIONS: readonly string[] = [
  MANIFEST.approximate,
  MANIFEST.precise,
  MANIFEST.background,
  MANIFEST.service,
  MANIFEST.locationService,
];

/** Permissions for other purposes with similar names, which are not reported as misspelt. */
const OTHER_PERMISSIONS: readonly string[] = [
  permission('FOREGROUND_SERVICE_DATA_SYNC'),
  permission('FOREGROUND_SERVICE_CAMERA'),
  permission('ACCESS_MEDIA_LOCATION'),
  permission('ACCESS_NETWORK_STATE'),
  permission('ACCESS_WIFI_STATE'),
];

export const MANIFEST_CHOICES: Readonly<Record<'foreground' | 'background', readonly string[]>> = {
  foreground: ['while the app is used', 'this time only', 'not at all', 'precise or approximate'],
  background: ['all the time, in the settings'],
};

/** Name of the policy in headers and in the `allow` of a frame (W3C Permissions Policy, Geolocation). */
export const POLICY = {
  header: 'permissions-policy',
  former: 'feature-policy',
  feature: 'geolocation',
} as const;

/** Choices in the prompt of browsers. */
export const PAGE_CHOICES: readonly string[] = ['allow', 'allow this time', 'never allow'];

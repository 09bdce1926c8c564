import type { NoFixKind, RemedyId } from './no-fix-kinds.js';

interface Texts {
  readonly user: string;
  readonly developer: string;
  readonly remedy: RemedyId;
  readonly help: string;
}

/** The texts of every kind of failure: for the user, for the developer, and what helps. */
export const NO_FIX_TEXTS: Readonly<Record<NoFixKind, Texts>> = {
  unsupported: {
    user: 'This device cannot tell where it is.',
    developer: 'no positioning interface; offer a typed place or a simulated device',
    remedy: 'use-other-device',
    help: 'Open this page on a phone, or type the place instead.',
  },
  insecure: {
    user: 'This page may not ask for your position, because its connection is not secure.',
    developer: 'positioning needs https, or localhost while developing',
    remedy: 'serve-securely',
    help: 'Open the page at its https address.',
  },
  forbidden: {
    user: 'This page may not ask for your position here.',
    developer:
      'the permissions policy bars geolocation here; add allow="geolocation" to the frame, or change the Permissions-Policy header',
    remedy: 'allow-in-frame',
    help: 'Open the page on its own, outside the page that frames it.',
  },
  undeclared: {
    user: 'This app was built without the declaration it needs to ask for your position.',
    developer: 'a platform declaration or its purpose text is missing',
    remedy: 'declare-purpose',
    help: 'Tell the makers of this app.',
  },
  'switched-off': {
    user: 'Positioning is switched off on this device.',
    developer: 'the device’s own switch is off, which is not the permission',
    remedy: 'turn-on-switch',
    help: 'Turn on location in the device’s settings, then try again.',
  },
  refused: {
    user: 'You did not allow this page to know your position.',
    developer: 'the prompt was refused or closed, and may be shown again',
    remedy: 'ask-again',
    help: 'Press the button again and choose “Allow”.',
  },
  barred: {
    user: 'This page is not allowed to know your position.',
    developer: 'the permission is denied, and only the settings can change that',
    remedy: 'open-settings',
    help: 'Allow location for this page in the site settings beside the address, then try again.',
  },
  declined: {
    user: 'Not now, then. Nothing was asked of the device.',
    developer: 'the app’s own card was put off; the system was not asked',
    remedy: 'ask-again',
    help: 'Press the button whenever you are ready.',
  },
  withdrawn: {
    user: 'The permission to know your position was taken back.',
    developer: 'the permission was withdrawn; what was recorded is kept',
    remedy: 'open-settings',
    help: 'Allow location for this page in the site settings beside the address, then try again.',
  },
  'approximate-only': {
    user: 'Only your rough position is shared with this page.',
    developer: 'the positions shared are coarser than the accuracy asked for',
    remedy: 'allow-precise',
    help: 'Allow the precise position in the settings, or go on with the rough one.',
  },
  'no-signal': {
    user: 'The device cannot find its position right now.',
    developer: 'the platform has no position',
    remedy: 'move-to-open-sky',
    help: 'Go where there is open sky, wait a moment, and try again.',
  },
  'timed-out': {
    user: 'The device did not find its position in time.',
    developer: 'patience ended before a fix came',
    remedy: 'try-again',
    help: 'Try again, better under open sky.',
  },
  unknown: {
    user: 'Something went wrong while finding your position.',
    developer: 'its cause tells the failure',
    remedy: 'report',
    help: 'Try again; if it stays, tell the makers of this app.',
  },
};

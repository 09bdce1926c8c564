import type { NoFixKind, RemedyId } from './no-fix-kinds.js';

/** Remedy and developer text of each kind of failure. The user's texts are in `core/texts`. */
export const NO_FIX_FACTS: Readonly<Record<NoFixKind, readonly [remedy: RemedyId, developer: string]>> = {
  unsupported: ['use-other-device', 'the platform has no positioning interface'],
  insecure: ['serve-securely', 'positioning needs https or localhost'],
  forbidden: [
    'allow-in-frame',
    'the Permissions-Policy bars geolocation here; change the header, or add allow="geolocation" to the frame',
  ],
  undeclared: ['declare-purpose', 'a declaration or its purpose text is missing'],
  'switched-off': ['turn-on-switch', 'the switch of the device is off'],
  refused: ['ask-again', 'the prompt was refused or closed; it can be shown again'],
  barred: ['open-settings', 'only the settings can change the denied permission'],
  declined: ['ask-again', 'the app’s explanation was put off'],
  withdrawn: ['open-settings', 'the permission was withdrawn'],
  'approximate-only': ['allow-precise', 'positions are coarser than asked for'],
  'no-signal': ['move-to-open-sky', 'the platform has no position'],
  'timed-out': ['try-again', 'no fix within patience'],
  unknown: ['report', 'the cause has the details'],
};

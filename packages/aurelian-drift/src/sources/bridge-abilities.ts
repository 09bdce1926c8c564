/** What a shell may be able to do beside the least. */
export const ABILITIES = ['turn-on-switch', 'open-settings', 'last-fix', 'keep-screen-on', 'rest'] as const;
/** Something that the pretend shell can do for the page. */
export type Ability = (typeof ABILITIES)[number];

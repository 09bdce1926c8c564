/** What the platform's own interfaces, and other code, call what an option or a field of this library is; with its unit where that differs. */
const OTHER_WORDS: Readonly<Record<string, readonly [ours: string, unit?: string]>> = Object.freeze({
  timeout: ['patience', 'seconds'],
  maximumAge: ['maxAge', 'seconds'],
  enableHighAccuracy: ['accuracy', 'metres'],
  latitude: ['lat'],
  longitude: ['lon'],
  lng: ['lon'],
  long: ['lon'],
  timestamp: ['time'],
  heading: ['course'],
});

/** `here it is "patience", in seconds`, when a word is another's for one of ours; else `undefined`. */
export function ourWordFor(word: string, known: Iterable<string>): string | undefined {
  const [ours, unit] = (Object.hasOwn(OTHER_WORDS, word) ? OTHER_WORDS[word] : undefined) ?? [];
  if (ours === undefined || ![...known].includes(ours)) return undefined;
  return `here it is "${ours}"${unit === undefined ? '' : `, in ${unit}`}`;
}

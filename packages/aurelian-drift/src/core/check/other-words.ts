/**
 * What the platform's own interfaces, and other code, call what an option or a field of this library is; with its unit
 * where that differs.
 */
const OTHER_WORDS: Readonly<Record<string, string>> = {
  timeout: '"patience", in seconds',
  maximumAge: '"maxAge", in seconds',
  enableHighAccuracy: '"accuracy", in metres',
  latitude: '"lat"',
  longitude: '"lon"',
  lng: '"lon"',
  timestamp: '"time"',
  heading: '"course"',
};

/** `here it is "patience", in seconds`, when a word is another's for one of ours; else `undefined`. */
export function ourWordFor(word: string, known: readonly string[]): string | undefined {
  const ours = Object.hasOwn(OTHER_WORDS, word) ? OTHER_WORDS[word] : undefined;
  return known.some((name) => ours?.startsWith(`"${name}"`)) ? `here it is ${ours}` : undefined;
}

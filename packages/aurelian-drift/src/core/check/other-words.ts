/**
 * Names that platform interfaces and other code use for options and fields of this library, with the unit where it
 * differs.
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

/** `here it is "patience", in seconds` for a name that belongs to another interface; otherwise `undefined`. */
export function ourWordFor(word: string, known: readonly string[]): string | undefined {
  const ours = Object.hasOwn(OTHER_WORDS, word) ? OTHER_WORDS[word] : undefined;
  return known.some((name) => ours?.startsWith(`"${name}"`)) ? `here it is ${ours}` : undefined;
}

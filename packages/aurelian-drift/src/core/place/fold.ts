/** Letters that no decomposition takes apart, as they are typed without. */
const LETTERS: Readonly<Record<string, string>> = {
  ß: 'ss', æ: 'ae', œ: 'oe', ø: 'o', ł: 'l', đ: 'd', ð: 'd', þ: 'th', ħ: 'h', ı: 'i', ŋ: 'n',
}; // prettier-ignore

/** Nothing but plain letters of the first block: nearly all words, and ready when they are in small letters. */
const PLAIN = /^[\x20-\x7E]*$/;

/** Text as it is compared: small letters, without accents. */
function fold(text: string): string {
  const small = text.toLowerCase();
  if (PLAIN.test(small)) return small;
  return small
    .normalize('NFKD')
    .replaceAll(/\p{M}+/gu, '')
    .replaceAll(/[ßæœøłđðþħıŋ]/g, (letter) => LETTERS[letter] ?? letter);
}

/** The words of a text, folded; an apostrophe is within a word, and is left out: `Chandler’s` is `chandlers`. */
export function wordsOf(text: string): string[] {
  return (
    fold(text)
      .replaceAll(/['\u2019\u02BC]/g, '')
      .match(/[\p{L}\p{N}]+/gu) ?? []
  );
}

/** Letters without a Unicode decomposition, and their plain forms. */
const LETTERS: Readonly<Record<string, string>> = {
  ß: 'ss',
  æ: 'ae',
  œ: 'oe',
  ø: 'o',
  ł: 'l',
  đ: 'd',
  ð: 'd',
  þ: 'th',
  ħ: 'h',
  ı: 'i',
  ŋ: 'n',
};

/** Plain letters of the first block only: nearly all words, which need no folding in lower case. */
const PLAIN = /^[\x20-\x7E]*$/;

/** Text for comparison: lower case, without accents. */
function fold(text: string): string {
  const small = text.toLowerCase();
  if (PLAIN.test(small)) return small;
  return small
    .normalize('NFKD')
    .replaceAll(/\p{M}+/gu, '')
    .replaceAll(/[ßæœøłđðþħıŋ]/g, (letter) => LETTERS[letter] ?? letter);
}

/** Words of a text for comparison; an apostrophe belongs to a word, and is left out: `Chandler’s` is `chandlers`. */
export function wordsOf(text: string): string[] {
  return (
    fold(text)
      .replaceAll(/['\u2019\u02BC]/g, '')
      .match(/[\p{L}\p{N}]+/gu) ?? []
  );
}

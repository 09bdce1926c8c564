/* Converts between text and UTF-8 bytes (RFC 3629). Our own code, because a bare ECMAScript engine has no encoder. */

/** Leading bits of a first byte, by the number of bytes that follow. */
const LEADS = [0, 0xc0, 0xe0, 0xf0];
const REPLACEMENT = 0xfffd;

/** UTF-8 bytes of a text. A lone surrogate becomes U+FFFD, as in the encoders of the platforms. */
export function utf8Of(text: string): Uint8Array {
  const bytes = new Uint8Array(3 * text.length); // a code unit takes three bytes at most
  let length = 0;
  for (let i = 0; i < text.length; i++) {
    let point = text.codePointAt(i) as number;
    if (point < 0x80) {
      bytes[length++] = point;
      continue;
    }
    if (point > 0xffff) i++;
    else if (point >= 0xd800 && point < 0xe000) point = REPLACEMENT;
    const more = point < 0x800 ? 1 : point < 0x10000 ? 2 : 3;
    bytes[length++] = (LEADS[more] as number) | (point >> (6 * more));
    for (let part = more - 1; part >= 0; part--) bytes[length++] = 0x80 | ((point >> (6 * part)) & 0x3f);
  }
  return bytes.subarray(0, length);
}

/** Text of bytes that `utf8Of` made. A byte that is not valid UTF-8 becomes U+FFFD. */
export function textOfUtf8(bytes: Uint8Array): string {
  const parts: string[] = [];
  for (let i = 0; i < bytes.length;) {
    const lead = bytes[i++] as number;
    const more = lead < 0x80 ? 0 : lead >= 0xf0 ? 3 : lead >= 0xe0 ? 2 : lead >= 0xc0 ? 1 : -1;
    let point = more < 1 ? lead : lead & (0x3f >> more);
    let sound = more >= 0;
    for (let part = 0; sound && part < more; part++) {
      const next = bytes[i] ?? 0;
      sound = (next & 0xc0) === 0x80;
      if (sound) i++;
      point = (point << 6) | (next & 0x3f);
    }
    parts.push(String.fromCodePoint(sound && point <= 0x10ffff ? point : REPLACEMENT));
  }
  return parts.join('');
}

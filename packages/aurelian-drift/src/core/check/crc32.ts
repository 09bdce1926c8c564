/** The remainders of single bytes for the reversed polynomial 0xEDB88320. */
const TABLE = Uint32Array.from({ length: 256 }, (_, byte) => {
  let rest = byte;
  for (let bit = 0; bit < 8; bit++) rest = (rest >>> 1) ^ (rest & 1 ? 0xedb88320 : 0);
  return rest;
});

/** The bits that a first byte of UTF-8 begins with, by the number of bytes that follow it. */
const LEADS = [0, 0xc0, 0xe0, 0xf0];

/** The next register for one more byte. */
function step(register: number, byte: number): number {
  return (TABLE[(register ^ byte) & 0xff] as number) ^ (register >>> 8);
}

/** CRC-32 of bytes, one part after the other (ISO/IEC 8802-3, 3.2.9, as in RFC 1952), 0 to 2³² − 1. */
export function crc32(...parts: readonly Uint8Array[]): number {
  let register = -1;
  for (const part of parts) for (const byte of part) register = step(register, byte);
  return ~register >>> 0;
}

/** CRC-32 of a text in UTF-8. A lone surrogate counts as its three bytes. */
export function crc32OfText(text: string): number {
  let register = -1;
  for (let i = 0; i < text.length; i++) {
    let point = text.charCodeAt(i);
    if (point < 0x80) {
      register = step(register, point);
      continue;
    }
    if (point >= 0xd800 && point < 0xdc00) {
      const low = text.charCodeAt(i + 1);
      if (low >= 0xdc00 && low < 0xe000) {
        point = 0x10000 + ((point - 0xd800) << 10) + (low - 0xdc00);
        i++;
      }
    }
    const more = point < 0x800 ? 1 : point < 0x10000 ? 2 : 3;
    register = step(register, (LEADS[more] as number) | (point >> (6 * more)));
    for (let part = more - 1; part >= 0; part--)
      register = step(register, 0x80 | ((point >> (6 * part)) & 0x3f));
  }
  return ~register >>> 0;
}

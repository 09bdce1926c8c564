/** Remainders of single bytes for the reversed polynomial 0xEDB88320. */
const TABLE = Uint32Array.from({ length: 256 }, (_, byte) => {
  let rest = byte;
  for (let bit = 0; bit < 8; bit++) rest = (rest >>> 1) ^ (rest & 1 ? 0xedb88320 : 0);
  return rest;
});

/** Updates the register with one more byte. */
function step(register: number, byte: number): number {
  return (TABLE[(register ^ byte) & 0xff] as number) ^ (register >>> 8);
}

/** CRC-32 (ISO/IEC 8802-3, 3.2.9, as in RFC 1952) of a sequence of byte arrays, 0 to 2³² − 1. */
export function crc32(...parts: readonly Uint8Array[]): number {
  let register = -1;
  for (const part of parts) for (const byte of part) register = step(register, byte);
  return ~register >>> 0;
}

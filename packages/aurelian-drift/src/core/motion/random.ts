/** A stream of random numbers that depends on the seed only. */
export interface Random {
  /** Uniform in 0…1, 1 excluded. */
  uniform(): number;
  /** Standard normal. */
  normal(): number;
}

/** sfc32 (C. Doty-Humphrey, PractRand): 128 bits of state, period about 2^127. The seed is any integer. */
export function randomFrom(seed: number): Random {
  let a = 0x9e3779b9 ^ seed;
  let b = 0x243f6a88 ^ Math.floor(seed / 4294967296);
  let c = 0xb7e15162;
  let counter = 1;
  const next = () => {
    const sum = (((a + b) | 0) + counter) | 0;
    counter = (counter + 1) | 0;
    a = b ^ (b >>> 9);
    b = (c + (c << 3)) | 0;
    c = ((c << 21) | (c >>> 11)) + sum;
    return (sum >>> 0) / 4294967296;
  };
  for (let i = 0; i < 15; i++) next(); // until the seed has reached every bit
  let spare: number | undefined;
  return {
    uniform: next,
    normal() {
      if (spare !== undefined) {
        const value = spare;
        spare = undefined;
        return value;
      }
      // Box and Muller, 1958; 1 − u keeps the logarithm finite.
      const radius = Math.sqrt(-2 * Math.log(1 - next()));
      const angle = 2 * Math.PI * next();
      spare = radius * Math.sin(angle);
      return radius * Math.cos(angle);
    },
  };
}

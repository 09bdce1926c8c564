/** A number with a fixed number of decimals, rounded half away from zero, with a dot, and never "-0.0". */
export function fixedDecimals(value: number, decimals: number): string {
  // toFixed rounds the binary value; here the shortest decimal form is rounded, because that is what people saw.
  const scaled = Math.round(shifted(Math.abs(value), decimals));
  const rounded = shifted(scaled, -decimals);
  if (!Number.isFinite(rounded)) return value.toFixed(decimals);
  return `${value < 0 && rounded !== 0 ? '-' : ''}${rounded.toFixed(decimals)}`;
}

/** Decimals of a degree that an accuracy in metres supports: 5 (about a metre) to 0; 5 when it is unknown. */
export function decimalsFor(accuracy: number | undefined): number {
  if (accuracy === undefined) return 5;
  if (!(accuracy > 0)) return 7;
  // One degree is about 111 km; a digit is shown while its step is no finer than about the accuracy.
  return Math.max(0, Math.min(7, Math.round(Math.log10(111_000 / accuracy))));
}

/** A number times a power of ten, in its shortest decimal form: `1e-7` has an exponent of its own. */
function shifted(value: number, power: number): number {
  const [digits = '', exponent = '0'] = String(value).split('e');
  return Number(`${digits}e${Number(exponent) + power}`);
}

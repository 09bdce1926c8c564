/** Characters that XML 1.0 cannot hold at all (section 2.2). */
const FORBIDDEN =
  // eslint-disable-next-line no-control-regex -- the point is to find control characters
  /[\0-\u0008\v\f\u000E-\u001F\uFFFE\uFFFF]|[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/g;

/** Text as XML content or as an attribute in double quotes. What XML cannot hold becomes U+FFFD. */
export function xmlText(text: string): string {
  return text
    .replace(FORBIDDEN, '\uFFFD')
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;');
}

/** A number as xsd:decimal writes it: every digit it has, and no exponent. */
export function xmlDecimal(value: number): string {
  const text = String(value);
  const exponent = text.indexOf('e-');
  if (exponent < 0) return text;
  // Below 1e-6 the shortest form has an exponent; its digits, moved right, are the decimal form.
  const digits = text.slice(0, exponent).replace('-', '').replace('.', '');
  const zeros = Number(text.slice(exponent + 2)) - 1;
  return `${value < 0 ? '-' : ''}0.${'0'.repeat(zeros)}${digits}`;
}

/* Writes the table of letter widths that the layout of pictures uses: node scripts/font-widths.mjs */
import { readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import opentype from 'opentype.js';

const require = createRequire(import.meta.url);
const load = (name) => {
  const data = readFileSync(require.resolve(`@expo-google-fonts/source-sans-3/${name}`));
  return opentype.parse(data.buffer.slice(data.byteOffset, data.byteOffset + data.byteLength));
};
const faces = {
  400: load('400Regular/SourceSans3_400Regular.ttf'),
  600: load('600SemiBold/SourceSans3_600SemiBold.ttf'),
};
// Printable ASCII and Latin-1. Every other letter is assumed to be as wide as an n.
const codes = [...Array(95).keys()].map((i) => i + 32).concat([...Array(96).keys()].map((i) => i + 160));
const row = (font) =>
  codes.map((code) =>
    Math.round((font.charToGlyph(String.fromCodePoint(code)).advanceWidth / font.unitsPerEm) * 1000),
  );
const text = `/* Made by scripts/font-widths.mjs from Source Sans 3: thousandths of the letter size, for U+0020…7E and U+00A0…FF. */
// prettier-ignore
export const REGULAR_WIDTHS: readonly number[] = [${row(faces[400]).join(', ')}];
// prettier-ignore
export const SEMIBOLD_WIDTHS: readonly number[] = [${row(faces[600]).join(', ')}];
`;
writeFileSync(new URL('../packages/aurelian-drift/src/core/scene/font-widths.ts', import.meta.url), text);

import { createRequire } from 'node:module';

const require = createRequire(import.meta.url);
const FACES = [
  '400Regular/SourceSans3_400Regular',
  '600SemiBold/SourceSans3_600SemiBold',
  '400Regular_Italic/SourceSans3_400Regular_Italic',
];

/** An SVG drawing as PNG, with the font of the package, so that every machine draws the same. */
export async function pngOf(svg: string): Promise<Buffer> {
  const { Resvg } = await import('@resvg/resvg-js'); // a large native part that most commands do not need
  const fontFiles = FACES.map((face) => require.resolve(`@expo-google-fonts/source-sans-3/${face}.ttf`));
  const font = { fontFiles, loadSystemFonts: false, defaultFontFamily: 'Source Sans 3' };
  return new Resvg(svg, { font }).render().asPng();
}

import { fileURLToPath } from 'node:url';

/** A file of the demo island, which ships with the package: from src/cli and from dist/cli alike. */
function demoPath(name: string): string {
  return fileURLToPath(new URL(`../../demo/${name}`, import.meta.url));
}

/** Whom the map data of a background is by. */
export function creditOf(base: string): string {
  return base === 'demo' ? 'Vanesk, an island that does not exist' : base;
}

/** A path, or the demo island's own file for the word `demo`. */
export function orDemo(path: string, name: 'vanesk' | 'sections' | 'rounds' | 'places'): string {
  return path === 'demo' ? demoPath(`${name}.geojson`) : path;
}

/** A path, or the users of the demo party for the word `demo`. */
export function orDemoParty(path: string): string {
  return path === 'demo' ? demoPath('party.json') : path;
}

import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

/**
 * Folder of the demo island: packing copies it into the package; in a checkout it is at the root. The same from src/cli
 * and from dist/bin.
 */
const DEMO = ['../../demo/', '../../../../demo/']
  .map((path) => fileURLToPath(new URL(path, import.meta.url)))
  .find((path) => existsSync(path));

/** A file of the demo island. */
function demoPath(name: string): string {
  return `${DEMO ?? ''}${name}`;
}

/** Source of the map data of a background. */
export function creditOf(base: string): string {
  return base === 'demo' ? 'Vanesk, an island that does not exist' : base;
}

/** Files of the demo island. */
export type DemoFile = 'vanesk' | 'sections' | 'banks' | 'rounds' | 'places' | 'lanes';

/** A path, or the file of the demo island for the word `demo`. */
export function orDemo(path: string, name: DemoFile): string {
  return path === 'demo' ? demoPath(`${name}.geojson`) : path;
}

/** A path, or the users of the demo party for the word `demo`. */
export function orDemoParty(path: string): string {
  return path === 'demo' ? demoPath('party.json') : path;
}

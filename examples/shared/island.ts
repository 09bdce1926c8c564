import type { Bounds } from 'aurelian-drift';
import { groundFrom } from 'aurelian-drift/map';

export const CREDIT = 'Vanesk, an island that does not exist';

/** The box of the island. */
export const ISLAND: Bounds = [-33.67, 44.16, -33.53, 44.24];

const ADDRESSES = {
  vanesk: new URL('../../demo/vanesk.geojson', import.meta.url),
  sections: new URL('../../demo/sections.geojson', import.meta.url),
  rounds: new URL('../../demo/rounds.geojson', import.meta.url),
  lanes: new URL('../../demo/lanes.geojson', import.meta.url),
  places: new URL('../../demo/places.geojson', import.meta.url),
};

/** A file of the demo island, parsed. */
export async function load(name: keyof typeof ADDRESSES): Promise<unknown> {
  const response = await fetch(ADDRESSES[name]);
  if (!response.ok) throw new Error(`${ADDRESSES[name].pathname} answered ${response.status}`);
  return response.json();
}

/** Address of the file of the island. */
export const islandAddress = () => ADDRESSES.vanesk.href;

/** Made on first use; after a failure the next call tries again. */
export function onceMade<T>(make: () => Promise<T>): () => Promise<T> {
  let made: Promise<T> | undefined;
  return () =>
    (made ??= make().catch((error: unknown) => {
      made = undefined;
      throw error;
    }));
}

/** The island as a background. */
export const islandGround = onceMade(async () => groundFrom(await load('vanesk')));

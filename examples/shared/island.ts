import { boundsContain, type Position } from 'aurelian-drift';
import { groundFrom, type Ground } from 'aurelian-drift/map';

export const CREDIT = 'Vanesk, an island that does not exist';

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

/** The island as a background, for a position on it; elsewhere there is none, and the map shows a grid. */
export async function groundAt(place: Position): Promise<Ground | undefined> {
  const ground = await islandGround();
  return ground.bounds !== undefined && boundsContain(ground.bounds, place) ? ground : undefined;
}

import type { TileName } from '../core/scene/tile-cover.js';
import { keptTile } from './kept-tiles.js';
import { isNoTile, tileAddress, type TileOptions } from './tile-options.js';

/** The answer of a service to a request for a tile. */
export type TileAnswer =
  | { readonly kind: 'there'; readonly bitmap: ImageBitmap }
  /** The service has no such tile: there is nothing to show, as over the open sea. */
  | { readonly kind: 'none' }
  /** It does not let this page have it. */
  | { readonly kind: 'refused'; readonly text: string }
  | { readonly kind: 'failed'; readonly text: string };

/** Asks for a tile: first the kept ones, then the service. Rejects only when the signal aborts. */
export async function askForTile(
  options: TileOptions,
  name: TileName,
  ratio: number,
  signal: AbortSignal,
): Promise<TileAnswer> {
  const address = tileAddress(options, name, ratio);
  const { size = 256 } = options;
  const host = URL.canParse(address, document.baseURI)
    ? new URL(address, document.baseURI).host
    : address.slice(0, 40);
  try {
    const response = (await keptTile(address)) ?? (await fetch(address, { signal }));
    const { status } = response;
    if (status === 401 || status === 403) {
      const help = 'give a key that is valid for this page';
      return { kind: 'refused', text: `${host} refuses the key for its tiles (${status}); ${help}` };
    }
    if (isNoTile(response)) return { kind: 'none' };
    if (!response.ok) return failed(host, `it answers ${status}`);
    const bitmap = await createImageBitmap(await response.blob());
    const { width, height } = bitmap;
    if (width === height && width % size === 0) return { kind: 'there', bitmap };
    bitmap.close();
    const text = `a tile of ${host} is ${width} by ${height} pixels, and the option size says ${size}`;
    return { kind: 'failed', text };
  } catch (error) {
    if (signal.aborted) throw error;
    return failed(host, (error instanceof Error ? error.message : String(error)).replace(/\.$/, ''));
  }
}

function failed(host: string, reason: string): TileAnswer {
  return { kind: 'failed', text: `tiles of ${host} cannot be loaded: ${reason}` };
}

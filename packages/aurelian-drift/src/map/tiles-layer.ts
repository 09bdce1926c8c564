import type { LayerKind, ReadyLayer } from '../core/scene/layer-kind.js';
import type { TileOptions } from './tile-options.js';
import { TileSource } from './tile-source.js';

/** Layer of tiles. It needs a page; a still picture has a layer of pictures. */
export interface TilesLayer extends TileOptions {
  readonly kind: 'tiles';
}

export const TILES: LayerKind<TilesLayer> = {
  kind: 'tiles',
  background: true,
  prepare({ kind: _, ...options }, _before, changed): ReadyLayer {
    const source = new TileSource(options, changed);
    return {
      credit: options.credit,
      get error() {
        return source.error;
      },
      under: (camera, region) => [{ id: 'tiles', steps: source.steps(camera, region) }],
      close: () => source.close(),
    };
  },
};

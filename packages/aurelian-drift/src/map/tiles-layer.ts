import type { LayerKind, ReadyLayer } from '../core/scene/layer-kind.js';
import { TileSource, type TileOptions } from './tile-source.js';

/** Layer of tiles. It needs a page; a still picture has none. */
export interface TilesLayer extends TileOptions {
  readonly kind: 'tiles';
}

export const TILES: LayerKind<TilesLayer> = {
  kind: 'tiles',
  background: true,
  prepare(layer, _before, changed): ReadyLayer {
    const source = new TileSource(layer, changed);
    return {
      credit: layer.credit,
      get error() {
        return source.error;
      },
      under: (camera, region) => [{ id: 'tiles', steps: source.steps(camera, region) }],
      close: () => source.close(),
    };
  },
};

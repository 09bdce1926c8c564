import { InputError } from '../core/check/input-error.js';
import { suggestion } from '../core/check/suggest.js';
import type { Camera } from '../core/scene/camera.js';
import { boundsAround, type Bounds } from '../core/geodesy/bounds.js';
import {
  kindOf,
  type AnyLayerKind,
  type Change,
  type LayerError,
  type StackedLayer,
} from '../core/scene/layer-kind.js';
import { SHEET_KINDS, type SheetLayer } from '../core/scene/layer-kinds.js';
import { GROUND } from '../core/scene/layers/ground.js';
import type { LabelRoom } from '../core/scene/layers/label-room.js';
import type { MapWords } from '../core/scene/map-words.js';
import type { Region } from '../core/scene/region.js';
import type { Layer } from '../core/scene/scene.js';
import { overOf, underOf } from '../core/scene/stack.js';
import { TILES, type TilesLayer } from './tiles-layer.js';

/** A layer of a map: one of the kinds that a still picture may have, or tiles. */
export type MapLayer = SheetLayer | TilesLayer;

/** Kinds from bottom to top; layers can be moved. */
const KINDS: readonly AnyLayerKind[] = SHEET_KINDS.flatMap((kind): AnyLayerKind[] =>
  kind === GROUND ? [kind, TILES] : [kind],
);

interface StackEntry extends StackedLayer {
  readonly layer: MapLayer;
  shown: boolean;
}

/** Layers of a map by their ids, in order. */
export interface MapLayers {
  /** Ids, bottom to top. */
  readonly ids: readonly string[];
  /** Adds a layer, or replaces the one with the same id. @throws {InputError} for an unknown kind. */
  put(id: string, layer: MapLayer): void;
  /** The layer with an id; `undefined` when there is none. */
  layer(id: string): MapLayer | undefined;
  /** Removes a layer; an unknown id is harmless. */
  remove(id: string): void;
  /** Shows or hides a layer, which keeps its place. @throws {InputError} for an unknown id. */
  show(id: string, shown: boolean): void;
  isShown(id: string): boolean;
  /** Moves a layer below another one, or to the top. */
  moveBelow(id: string, other?: string): void;
}

/** The layers of a map, with their drawing. */
export class LayerStack implements MapLayers {
  readonly #entries = new Map<string, StackEntry>();
  readonly #onChange: (change: Change) => void;
  readonly #onSet: () => void;

  constructor(onChange: (change: Change) => void, onSet: () => void) {
    this.#onChange = onChange;
    this.#onSet = onSet;
  }

  get ids(): readonly string[] {
    return [...this.#entries.keys()];
  }

  put(id: string, layer: MapLayer): void {
    const kind = kindOf(KINDS, layer, `layer "${id}"`);
    const before = this.#entries.get(id);
    const old = before?.kind === kind ? before.ready : undefined;
    const ready = kind.prepare(layer, old, () => this.#moreCame());
    const entry: StackEntry = { layer, kind, ready, shown: before?.shown ?? true };
    if (before === undefined) {
      const rank = KINDS.indexOf(kind);
      const above = [...this.#entries].find(([, other]) => KINDS.indexOf(other.kind) > rank)?.[0];
      this.#entries.set(id, entry);
      if (above !== undefined) this.#reorder(id, above);
    } else {
      before.ready.close?.();
      this.#entries.set(id, entry);
    }
    this.#onChange(before !== undefined && old === undefined ? 'all' : (kind.change?.(old, ready) ?? 'all'));
    this.#onSet();
  }

  remove(id: string): void {
    const entry = this.#entries.get(id);
    if (entry === undefined) return;
    const { kind, ready } = entry;
    ready.close?.();
    this.#entries.delete(id);
    this.#onChange(kind.change?.(ready, undefined) ?? 'all');
    this.#onSet();
  }

  show(id: string, shown: boolean): void {
    const entry = this.#known(id);
    if (entry.shown === shown) return;
    entry.shown = shown;
    this.#onChange('all');
    this.#onSet();
  }

  isShown(id: string): boolean {
    return this.#known(id).shown;
  }

  moveBelow(id: string, other?: string): void {
    this.#known(id);
    if (other !== undefined) this.#known(other);
    this.#reorder(id, other);
    this.#onChange('all');
  }

  layer(id: string): MapLayer | undefined {
    return this.#entries.get(id)?.layer;
  }

  /** Visible layers, bottom to top. */
  get shown(): readonly StackedLayer[] {
    return [...this.#entries.values()].filter(({ shown }) => shown);
  }

  /** Whether there is a background: a ground, tiles, or the grid. */
  get hasBackground(): boolean {
    return this.shown.some(({ kind }) => kind.background === true);
  }

  /** Credits of the visible layers. */
  get credits(): readonly string[] {
    return this.shown.flatMap(({ ready }) => ready.credit ?? []);
  }

  /** The box around the content of the visible layers; `undefined` when they are empty. */
  get bounds(): Bounds | undefined {
    return boundsAround(this.shown.map(({ ready }) => ready.bounds?.()));
  }

  /** Why data of visible layers cannot be shown. */
  get errors(): readonly LayerError[] {
    return this.shown.flatMap(({ ready }) => ready.error ?? []);
  }

  /** Id of the topmost item at a pixel. */
  hit(x: number, y: number, camera: Camera): string | undefined {
    for (const { ready } of this.shown.toReversed()) {
      const found = ready.hit?.(x, y, camera);
      if (found !== undefined) return found;
    }
    return undefined;
  }

  /** Steps of the part of the picture that stays while the map is moved, bottom to top. */
  under(camera: Camera, region: Region): Layer[] {
    return underOf(this.shown, camera, region);
  }

  /** Steps that are drawn in each frame: ends of growing trails, members, tabs and names. */
  over(camera: Camera, room: LabelRoom, words: MapWords): Layer[] {
    return overOf(this.shown, camera, room, words);
  }

  /** Takes in the growth of layers. */
  grow(): void {
    for (const { ready } of this.#entries.values()) {
      const change = ready.grow?.();
      if (change !== undefined) this.#onChange(change);
    }
  }

  /** A whole new picture is begun. */
  begin(camera: Camera): void {
    for (const { ready } of this.#entries.values()) ready.begin?.(camera);
  }

  /** The whole picture has been drawn: nothing of a layer is missing in it. */
  bake(): void {
    for (const { ready } of this.#entries.values()) ready.drawn?.();
  }

  close(): void {
    for (const { ready } of this.#entries.values()) ready.close?.();
    this.#entries.clear();
  }

  #known(id: string): StackEntry {
    const entry = this.#entries.get(id);
    if (entry === undefined)
      throw new InputError('bad-value', `there is no layer "${id}", ${suggestion(id, this.ids)}`);
    return entry;
  }

  #reorder(id: string, below: string | undefined): void {
    const entry = this.#known(id);
    const others = [...this.#entries].filter(([other]) => other !== id);
    this.#entries.clear();
    for (const [other, value] of others) {
      if (other === below) this.#entries.set(id, entry);
      this.#entries.set(other, value);
    }
    if (below === undefined) this.#entries.set(id, entry);
  }

  #moreCame(): void {
    this.#onChange('all');
    this.#onSet();
  }
}

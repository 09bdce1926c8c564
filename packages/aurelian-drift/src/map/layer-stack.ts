import { InputError } from '../core/check/input-error.js';
import { suggestion } from '../core/check/suggest.js';
import type { Fence } from '../core/fence/fence.js';
import type { Camera } from '../core/scene/camera.js';
import {
  fenceRegion,
  fenceShapes,
  fenceTabs,
  fencesLayer,
  type FenceShapeOnSheet,
  type FencesPaint,
} from '../core/scene/layers/fences.js';
import type { GroundPaint } from '../core/scene/layers/ground-paint.js';
import { groundLabels, type Ground } from '../core/scene/layers/ground.js';
import type { LabelRoom } from '../core/scene/layers/label-room.js';
import { lineLayer } from '../core/scene/layers/line.js';
import { membersLayer, type Member } from '../core/scene/layers/members.js';
import { shapesLayer, shapesOnSheet, type MapShape, type ShapeOnSheet } from '../core/scene/layers/shapes.js';
import {
  shadeRange,
  tailSteps,
  trailDetail,
  trailSteps,
  type TrailPaint,
} from '../core/scene/layers/trail.js';
import { isWhole, regionAround, type Region } from '../core/scene/region.js';
import type { Layer } from '../core/scene/scene.js';
import { backgroundLayers } from '../core/scene/sheet.js';
import { TrailPyramid } from '../core/scene/trail-pyramid.js';
import type { Line } from '../core/trail/line.js';
import type { Trail } from '../core/trail/trail.js';
import { TileSource, type TileOptions } from './tile-source.js';

/** What may lie on a map, bottom to top unless it is moved. */
export type MapLayer =
  | { readonly kind: 'grid' }
  | {
      readonly kind: 'ground';
      readonly ground: Ground;
      readonly credit?: string;
      readonly paint?: readonly GroundPaint[];
    }
  | ({ readonly kind: 'tiles' } & TileOptions)
  | { readonly kind: 'line'; readonly line: Line }
  | { readonly kind: 'trail'; readonly trail: Trail; readonly paint?: TrailPaint }
  | { readonly kind: 'shapes'; readonly shapes: readonly MapShape[] }
  | { readonly kind: 'fences'; readonly fences: readonly Fence[]; readonly paint?: FencesPaint }
  | { readonly kind: 'members'; readonly members: readonly Member[] };

const KINDS: readonly MapLayer['kind'][] = [
  'grid',
  'ground',
  'tiles',
  'line',
  'trail',
  'shapes',
  'fences',
  'members',
];

/** A layer with what was made ready of it. */
interface Entry {
  layer: MapLayer;
  shown: boolean;
  pyramid?: TrailPyramid;
  range?: readonly [number, number];
  /** The detail that it is drawn with until the whole picture is drawn anew. */
  detail?: number;
  /** Fixes that the range was worked out from, and those that are in the picture already. */
  ranged?: number;
  baked?: number;
  fences?: readonly FenceShapeOnSheet[];
  shapes?: readonly ShapeOnSheet[];
  tiles?: TileSource;
}

/** What has to be drawn anew: all of it, a part, or nothing. */
export type Change = 'all' | 'over' | ((camera: Camera) => Region | undefined);

/** Points of a growing trail that are drawn beside the picture before they go into it. */
const TAIL = 240;

/** The layers of a map by their ids, in order. */
export interface MapLayers {
  /** Ids, bottom to top. */
  readonly ids: readonly string[];
  /** Adds a layer, or puts it in the place of the one of that id. @throws {InputError} for a kind that is none. */
  put(id: string, layer: MapLayer): void;
  /** The layer of an id; `undefined` when there is none. */
  layer(id: string): MapLayer | undefined;
  /** Removing what is not there is harmless. */
  remove(id: string): void;
  /** Shows or hides a layer that stays in its place. @throws {InputError} for an id that is not there. */
  show(id: string, shown: boolean): void;
  isShown(id: string): boolean;
  /** Moves a layer below another one, or to the top. */
  moveBelow(id: string, other?: string): void;
}

/** The layers of a map, and what each draws. */
export class LayerStack implements MapLayers {
  readonly #entries = new Map<string, Entry>();
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
    if (!KINDS.includes(layer.kind)) {
      throw new InputError(
        'bad-value',
        `layer "${id}": there is no kind "${layer.kind}", ${suggestion(layer.kind, KINDS)}`,
      );
    }
    const before = this.#entries.get(id);
    const entry = prepared(layer, before, () => this.#tilesCame());
    if (before !== undefined) {
      entry.shown = before.shown;
      if (before.tiles !== entry.tiles) before.tiles?.close();
      this.#entries.set(id, entry);
      this.#onChange(changeBetween(before, entry));
      this.#onSet();
      return;
    }
    const rank = KINDS.indexOf(layer.kind);
    const above = [...this.#entries].find(([, other]) => KINDS.indexOf(other.layer.kind) > rank)?.[0];
    this.#entries.set(id, entry);
    if (above !== undefined) this.#reorder(id, above);
    this.#onChange(layer.kind === 'members' ? 'over' : 'all');
    this.#onSet();
  }

  remove(id: string): void {
    const entry = this.#entries.get(id);
    if (entry === undefined) return;
    entry.tiles?.close();
    this.#entries.delete(id);
    this.#onChange('all');
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

  /** Whether anything lies under it all: a ground, tiles, or the grid on purpose. */
  get hasBackground(): boolean {
    return this.#shown().some(
      ({ layer }) => layer.kind === 'ground' || layer.kind === 'tiles' || layer.kind === 'grid',
    );
  }

  /** Whom the data of the shown backgrounds is by. */
  get credits(): readonly string[] {
    return this.#shown().flatMap(({ layer }) =>
      (layer.kind === 'ground' || layer.kind === 'tiles') && layer.credit !== undefined ? [layer.credit] : [],
    );
  }

  /** What goes wrong with tiles. */
  get tileTroubles(): readonly { readonly what: string; readonly remedy: string }[] {
    return this.#shown().flatMap(({ tiles }) => tiles?.trouble ?? []);
  }

  /** Steps of a part of the picture that stay while the map is moved, bottom to top. */
  under(camera: Camera, region: Region): Layer[] {
    const shown = this.#shown();
    const ground = shown.map(({ layer }) => layer).find((layer) => layer.kind === 'ground');
    const background = backgroundLayers(camera, ground?.ground, ground?.paint, region);
    return [...background, ...shown.flatMap((entry) => this.#underOf(entry, camera, region))];
  }

  #underOf(entry: Entry, camera: Camera, region: Region): Layer[] {
    const { layer, pyramid, range, fences, shapes, tiles } = entry;
    if (pyramid !== undefined && (isWhole(region, camera) || entry.detail === undefined))
      entry.detail = trailDetail(pyramid, camera);
    switch (layer.kind) {
      case 'tiles':
        return [{ id: 'tiles', steps: tiles?.steps(camera, region) ?? [] }];
      case 'line':
        return [lineLayer(layer.line, camera)];
      case 'trail':
        return pyramid === undefined
          ? []
          : [
              {
                id: 'trail',
                steps: trailSteps(pyramid, camera, region, layer.paint ?? {}, range ?? [0, 0], entry.detail),
              },
            ];
      case 'shapes':
        return [shapesLayer(shapes ?? [], camera, region)];
      case 'fences':
        return [fencesLayer(fences ?? [], camera, layer.paint ?? {}, region)];
      default:
        return [];
    }
  }

  /** Steps that are drawn anew with each frame: tails of growing trails, members, tabs and names. */
  over(camera: Camera, room: LabelRoom): Layer[] {
    const shown = this.#shown();
    return [
      ...shown.flatMap((entry) => (entry.pyramid === undefined ? [] : [tailLayer(entry, camera)])),
      ...shown.flatMap(({ layer }) =>
        layer.kind === 'members' ? [membersLayer(layer.members, camera, room)] : [],
      ),
      ...shown.flatMap(({ layer, fences }) =>
        layer.kind === 'fences' ? [fenceTabs(fences ?? [], camera, layer.paint ?? {}, room)] : [],
      ),
      ...shown.flatMap(({ layer }) =>
        layer.kind === 'ground' ? [groundLabels(layer.ground, camera, room)] : [],
      ),
    ];
  }

  /** Takes in what trails have grown by; a tail that has become long goes into the picture. */
  grow(): void {
    for (const entry of this.#entries.values()) {
      const { layer, pyramid } = entry;
      if (layer.kind !== 'trail' || pyramid === undefined || !pyramid.grow()) continue;
      if (pyramid.length > 2 * (entry.ranged ?? 0)) {
        const range = shadeRange(layer.trail, layer.paint ?? {});
        const same = range[0] === entry.range?.[0] && range[1] === entry.range[1];
        entry.range = range;
        entry.ranged = pyramid.length;
        if (!same) {
          entry.baked = pyramid.length;
          this.#onChange('all');
          continue;
        }
      }
      const from = entry.baked ?? 0;
      if (pyramid.length - from > TAIL) {
        entry.baked = pyramid.length;
        this.#onChange((camera) => stretch(pyramid, from, camera));
      }
    }
  }

  /** All of the picture has been drawn: nothing of a trail is outside it. */
  bake(): void {
    for (const entry of this.#entries.values())
      if (entry.pyramid !== undefined) entry.baked = entry.pyramid.length;
  }

  close(): void {
    for (const { tiles } of this.#entries.values()) tiles?.close();
    this.#entries.clear();
  }

  #shown(): Entry[] {
    return [...this.#entries.values()].filter(({ shown }) => shown);
  }

  #known(id: string): Entry {
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

  #tilesCame(): void {
    this.#onChange('all');
    this.#onSet();
  }
}

function prepared(layer: MapLayer, before: Entry | undefined, tilesCame: () => void): Entry {
  const entry: Entry = { layer, shown: true };
  switch (layer.kind) {
    case 'trail':
      entry.pyramid = before?.pyramid?.trail === layer.trail ? before.pyramid : new TrailPyramid(layer.trail);
      entry.range = shadeRange(layer.trail, layer.paint ?? {});
      entry.ranged = layer.trail.length;
      entry.baked = layer.trail.length;
      break;
    case 'fences':
      entry.fences =
        before?.layer.kind === 'fences' && before.layer.fences === layer.fences && before.fences !== undefined
          ? before.fences
          : fenceShapes(layer.fences);
      break;
    case 'shapes':
      entry.shapes = shapesOnSheet(layer.shapes);
      break;
    case 'tiles':
      entry.tiles = new TileSource(layer, tilesCame);
      break;
    default:
  }
  return entry;
}

/** Sets of fences in a paint that are drawn in a way of their own. */
const STANDINGS = ['inside', 'uncertain', 'off'] as const;

/** What a new version of a layer changes: of fences that stand as they did, only those that stand otherwise now. */
function changeBetween(before: Entry, after: Entry): Change {
  if (after.layer.kind === 'members' && before.layer.kind === 'members') return 'over';
  if (before.layer.kind !== 'fences' || after.layer.kind !== 'fences' || before.fences !== after.fences)
    return 'all';
  const [was, is] = [before.layer.paint ?? {}, after.layer.paint ?? {}];
  if (was.toneOf !== is.toneOf || was.tabsFrom !== is.tabsFrom) return 'all';
  const changed = (after.fences ?? []).filter(({ fence: { id } }) =>
    STANDINGS.some((standing) => (was[standing]?.has(id) ?? false) !== (is[standing]?.has(id) ?? false)),
  );
  return (camera) =>
    changed
      .map((shape) => fenceRegion(shape, camera))
      .reduce<Region | undefined>((all, region) => regionAround(all, region), undefined);
}

/** The end of a trail that is not in the picture yet. */
function tailLayer({ pyramid, baked = 0, layer, range = [0, 0] }: Entry, camera: Camera): Layer {
  const growing = pyramid !== undefined && layer.kind === 'trail' && pyramid.length > baked;
  return { id: 'tail', steps: growing ? tailSteps(pyramid, camera, baked, layer.paint ?? {}, range) : [] };
}

/** Where a stretch of a trail lies, from one fix to its end. */
function stretch(pyramid: TrailPyramid, from: number, camera: Camera): Region {
  let [x1, y1, x2, y2] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = Math.max(0, from - 1); i < pyramid.length; i++) {
    const { x, y } = camera.pixelOfWorld(...pyramid.at(i));
    x1 = Math.min(x1, x);
    y1 = Math.min(y1, y);
    x2 = Math.max(x2, x);
    y2 = Math.max(y2, y);
  }
  return [x1 - 8, y1 - 8, x2 + 8, y2 + 8];
}

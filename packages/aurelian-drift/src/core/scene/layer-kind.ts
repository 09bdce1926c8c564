import { formatValue } from '../check/number.js';
import { InputError } from '../check/input-error.js';
import { anything, checkOptions, type Rule, isMissing } from '../check/options.js';
import { suggestion } from '../check/suggest.js';
import type { Bounds } from '../geodesy/bounds.js';
import type { Camera } from './camera.js';
import type { LabelRoom } from './layers/label-room.js';
import type { MapWords } from './map-words.js';
import type { Region } from './region.js';
import type { Layer } from './scene.js';
import type { Words } from './words.js';

/** The part that must be drawn again: the whole picture, only the content of each frame, or a region. */
export type Change = 'all' | 'over' | ((camera: Camera) => Region | undefined);

/** Why data of a layer cannot be shown. */
export interface LayerError {
  /** `refused`: its service does not let this page have it. */
  readonly kind: 'refused' | 'failing';
  /** For the developer. */
  readonly text: string;
}

/** A layer prepared for drawing. */
export interface ReadyLayer {
  /** Source of its data. */
  readonly credit?: string | undefined;
  /** Why its data cannot be shown. */
  readonly error?: LayerError | undefined;
  /** Steps that stay while the map is moved, near a region. */
  under?(camera: Camera, region: Region): readonly Layer[];
  /** Steps of additions since `under` was drawn. */
  fresh?(camera: Camera): readonly Layer[];
  /** Steps that are drawn in each frame: names, and content that gives way to higher layers. */
  over?(camera: Camera, room: LabelRoom, words: MapWords): readonly Layer[];
  /** Id of the topmost item at a pixel. */
  hit?(x: number, y: number, camera: Camera): string | undefined;
  /** Description in words; with a camera, of the visible part. */
  describe?(camera: Camera | undefined, words: MapWords): readonly Words[];
  /** The box around its content, which a map without a view of its own shows first; `undefined` when it is empty. */
  bounds?(): Bounds | undefined;
  /** Takes in the growth of its data. Returns the part that must be drawn again. */
  grow?(): Change | undefined;
  /** A whole new picture is begun: its parts are drawn at once or one by one, and must match. */
  begin?(camera: Camera): void;
  /** The picture that was begun has been drawn. */
  drawn?(): void;
  /** Releases its resources. */
  close?(): void;
}

/** A kind of layer; each is one file, and one line of a table. */
export interface LayerKind<Given extends { readonly kind: string }, Ready extends ReadyLayer = ReadyLayer> {
  readonly kind: Given['kind'];
  /** Rules for its options beside the kind. A kind without rules checks them itself. */
  readonly options?: { readonly [Name in Exclude<keyof Given, 'kind'>]-?: Rule };
  /** It is a background: no note about a missing one. */
  readonly background?: boolean;
  /** It covers the sheet, in place of paper and grid. */
  readonly covers?: boolean;
  /**
   * @param before prepared layer that it replaces, if that is of the same kind.
   * @param changed to be called when more of it can be drawn.
   * @throws {InputError} for a layer that cannot be drawn.
   */
  prepare(layer: Given, before: Ready | undefined, changed: () => void): Ready;
  /** The part that changes when a layer comes (no `before`), goes (no `after`), or is replaced. Default: everything. */
  change?(before: Ready | undefined, after: Ready | undefined): Change;
}

/** The same kind, without the type of its prepared layer. */
export function layerKind<Given extends { readonly kind: string }, Ready extends ReadyLayer>(
  kind: LayerKind<Given, Ready>,
): LayerKind<Given> {
  return kind;
}

/** A kind of a table, for any layer. */
export type AnyLayerKind = LayerKind<{ readonly kind: string }>;

/** A layer of a picture, with its kind and its prepared form. */
export interface StackedLayer {
  readonly kind: AnyLayerKind;
  readonly ready: ReadyLayer;
}

/**
 * The kind of a layer, whose options are checked.
 *
 * @param owner name of the layer in an error.
 * @throws {InputError} for an unknown kind, and for a misspelt or wrong option.
 */
export function kindOf(
  kinds: readonly AnyLayerKind[],
  layer: { readonly kind: string },
  owner: string,
): AnyLayerKind {
  if (isMissing(layer) || typeof layer !== 'object')
    throw new InputError('bad-value', `${owner} must be an object with a kind, got ${formatValue(layer)}`);
  const found = kinds.find(({ kind }) => kind === layer.kind);
  if (found !== undefined) {
    const { options } = found as { readonly options?: Readonly<Record<string, Rule>> };
    if (options === undefined) return found;
    checkOptions<Record<string, unknown>>(owner, layer as object as Record<string, unknown>, {
      kind: anything,
      ...options,
    });
    for (const name of Object.keys(options)) {
      const missing = (layer as object as Record<string, unknown>)[name] === undefined;
      const problem = missing ? options[name]?.(undefined) : undefined;
      if (problem !== undefined) throw new InputError('bad-value', `${owner}: ${name} is missing`);
    }
    return found;
  }
  const names = kinds.map(({ kind }) => kind);
  throw new InputError(
    'bad-value',
    `${owner}: there is no kind "${layer.kind}", ${suggestion(layer.kind, names)}`,
  );
}

import { InputError } from '../check/input-error.js';
import { suggestion } from '../check/suggest.js';
import type { Camera } from './camera.js';
import type { LabelRoom } from './layers/label-room.js';
import type { Region } from './region.js';
import type { Layer } from './scene.js';
import type { Words } from './words.js';

/** What has to be drawn anew: all of the picture, only what is drawn with each frame, or a part of the picture. */
export type Change = 'all' | 'over' | ((camera: Camera) => Region | undefined);

/** A layer made ready for drawing: what it needs was worked out once. */
export interface ReadyLayer {
  /** Whom its data is by. */
  readonly credit?: string | undefined;
  /** Why its data cannot be shown, for the developer. */
  readonly error?: string | undefined;
  /** Steps that stay while a map is moved: those that come near a region. */
  under?(camera: Camera, region: Region): readonly Layer[];
  /** Steps of what has come since `under` was drawn. */
  fresh?(camera: Camera): readonly Layer[];
  /** Steps that are drawn with each frame: names, and whatever gives way to what lies higher. */
  over?(camera: Camera, room: LabelRoom): readonly Layer[];
  /** The id of the topmost thing at a pixel. */
  hit?(x: number, y: number, camera: Camera): string | undefined;
  /** What it shows, in words; with a camera, what is seen of it. */
  describe?(camera: Camera | undefined): readonly Words[];
  /** Takes in what its data has grown by. Returns what has to be drawn anew. */
  grow?(): Change | undefined;
  /** All of the picture has been drawn. */
  drawn?(): void;
  /** Lets go of what it holds. */
  close?(): void;
}

/** All that a map knows of a kind of layer; each is one file, and one line of a table. */
export interface LayerKind<Given extends { readonly kind: string }, Ready extends ReadyLayer = ReadyLayer> {
  readonly kind: Given['kind'];
  /** Something lies under it all: no note that there is no background. */
  readonly background?: boolean;
  /** It covers the sheet, in place of paper and grid. */
  readonly covers?: boolean;
  /**
   * @param before what was made ready of the layer that it takes the place of, if that is of the same kind.
   * @param changed to be called when more of it can be drawn.
   * @throws {InputError} for a layer that cannot be drawn.
   */
  prepare(layer: Given, before: Ready | undefined, changed: () => void): Ready;
  /**
   * What it changes that a layer comes (nothing before), goes (nothing after), or is another one now. All, when left
   * out.
   */
  change?(before: Ready | undefined, after: Ready | undefined): Change;
}

/** The same kind, without what it makes ready: that is its own business. */
export function layerKind<Given extends { readonly kind: string }, Ready extends ReadyLayer>(
  kind: LayerKind<Given, Ready>,
): LayerKind<Given> {
  return kind;
}

/** A kind of a table, whatever it is given. */
export type AnyLayerKind = LayerKind<{ readonly kind: string }>;

/** A layer of a picture, with its kind and what was made ready of it. */
export interface StackedLayer {
  readonly kind: AnyLayerKind;
  readonly ready: ReadyLayer;
}

/**
 * The kind of a layer. @param owner what the layer is called in an error. @throws {InputError} for a kind that is none.
 */
export function kindOf(
  kinds: readonly AnyLayerKind[],
  layer: { readonly kind: string },
  owner: string,
): AnyLayerKind {
  const found = kinds.find(({ kind }) => kind === layer.kind);
  if (found !== undefined) return found;
  const names = kinds.map(({ kind }) => kind);
  throw new InputError(
    'bad-value',
    `${owner}: there is no kind "${layer.kind}", ${suggestion(layer.kind, names)}`,
  );
}

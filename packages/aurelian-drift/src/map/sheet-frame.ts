import type { Camera } from '../core/scene/camera.js';
import { sheetOf } from '../core/scene/empty-sheet.js';
import type { Change } from '../core/scene/layer-kind.js';
import { kiteLayer } from '../core/scene/layers/kite.js';
import { LabelRoom } from '../core/scene/layers/label-room.js';
import type { UnitSystem } from '../core/fix/units.js';
import { marginLayer, withinMargin } from '../core/scene/layers/margin.js';
import { paperLabel } from '../core/scene/layers/paper-label.js';
import { LOOK } from '../core/scene/look.js';
import type { MapWords } from '../core/scene/map-words.js';
import type { Layer } from '../core/scene/scene.js';
import type { Theme } from '../core/scene/theme.js';
import { CanvasPainter } from './canvas-painter.js';
import type { LayerStack } from './layer-stack.js';
import type { OwnKite } from './own-kite.js';
import type { PinBoard } from './pin-board.js';
import { Raster, type RasterState, type RasterWork } from './raster.js';
import type { BoxSize } from './stage-box.js';

/** Content of a frame beside layers and pins. */
export interface FrameContent {
  readonly kite: OwnKite;
  /** Whether only the empty sheet is shown. */
  readonly veiled: boolean;
  readonly units: UnitSystem;
  /** Milliseconds since 1970 UTC. */
  readonly now: number;
  readonly words: MapWords;
}

/** Draws a map frame by frame: the picture that stays, and over it everything that changes. */
export class SheetFrame {
  readonly canvas: HTMLCanvasElement;
  readonly #screen: CanvasPainter;
  readonly #raster: Raster;
  readonly #layers: LayerStack;
  readonly #pins: PinBoard;
  #size: BoxSize | undefined;

  constructor(layers: LayerStack, pins: PinBoard) {
    this.canvas = document.createElement('canvas');
    this.#screen = new CanvasPainter(this.canvas);
    this.#layers = layers;
    this.#pins = pins;
    this.#raster = new Raster({
      layers: (camera, region) => [...layers.under(camera, region), ...pins.under(camera, region)],
      begin: (camera) => layers.begin(camera),
      end: () => layers.bake(),
    });
  }

  get work(): RasterWork {
    return this.#raster.work;
  }

  set theme(theme: Theme) {
    this.#screen.theme = theme;
    this.#raster.look({ theme });
  }

  /** Takes over a size. Returns whether it is another one: the canvas is then empty. */
  resize(size: BoxSize): boolean {
    const { width, height, ratio } = size;
    const now = this.#size;
    if (now?.width === width && now.height === height && now.ratio === ratio) return false;
    this.#size = size;
    this.#screen.resize(width, height, ratio);
    if (ratio !== now?.ratio) this.#raster.look({ ratio });
    return true;
  }

  /** Font family of texts, as in CSS; also to be set again when fonts have been loaded. */
  set family(family: string) {
    this.#screen.family = family;
    this.#raster.look({ family });
  }

  change(change: Change): void {
    if (change === 'all') this.#raster.spoil();
    else if (change !== 'over') this.#raster.renew(change);
  }

  /** Draws; with `hurried`, a zoomed picture may be stretched. Returns whether the picture is complete. */
  draw(camera: Camera, content: FrameContent, hurried: boolean): RasterState {
    const { kite, veiled, units, now, words } = content;
    const { fix, staleAfter } = kite;
    const { measure } = this.#screen;
    this.#layers.grow();
    const roomy = camera.width >= 640 && camera.height >= 400;
    const credit = this.#layers.credits.join(' · ');
    const margin = {
      width: roomy ? 26 : 6,
      foot: roomy ? 32 : 24,
      units,
      words,
      measure,
      ...(credit !== '' && { credit }),
    };
    let state: RasterState = 'done';
    this.#screen.clear();
    if (veiled) {
      this.#screen.paint([sheetOf('paper', LOOK.parchment, camera)]);
    } else {
      state = this.#raster.bring(camera, hurried);
      this.#raster.blit(this.#screen.context, camera);
      const room = new LabelRoom(withinMargin(camera, margin), measure);
      const label = kiteRoom(camera, content, room);
      // The user opened the label of a pin: names below it give way.
      const pins = this.#pins.over(camera, room);
      this.#screen.paint([
        ...label,
        ...this.#layers.over(camera, room, words),
        ...pins,
        ...(fix === undefined ? [] : [kiteLayer(fix, camera, { now, staleAfter, words, measure })]),
      ]);
    }
    if (!veiled) this.#screen.paint([marginLayer(camera, margin)]);
    return state;
  }
}

/** Keeps names off the kite; its own label comes first. */
function kiteRoom(camera: Camera, { kite, now, words }: FrameContent, room: LabelRoom): Layer[] {
  const { fix, open } = kite;
  if (fix === undefined) return [];
  const { x, y } = camera.pixelOf(fix);
  room.take(x - 20, y - 20, 40, 40);
  if (!open) return [];
  const text = [words.place(fix), words.format.age((now - fix.time) / 1000)].join(' · ');
  return [{ id: 'kite-label', steps: paperLabel(text, x + 14, y - 30, room) }];
}

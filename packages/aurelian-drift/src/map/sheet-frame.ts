import type { Fix } from '../core/fix/fix.js';
import { accuracyText, ageText, positionText } from '../core/fix/words.js';
import type { Camera } from '../core/scene/camera.js';
import { sheetOf } from '../core/scene/empty-sheet.js';
import type { Change } from '../core/scene/layer-kind.js';
import { kiteLayer } from '../core/scene/layers/kite.js';
import { LabelRoom } from '../core/scene/layers/label-room.js';
import type { UnitSystem } from '../core/fix/units.js';
import { marginLayer, withinMargin } from '../core/scene/layers/margin.js';
import { labelSteps } from '../core/scene/layers/pins.js';
import { LOOK } from '../core/scene/look.js';
import type { Layer } from '../core/scene/scene.js';
import type { Theme } from '../core/scene/theme.js';
import { CanvasPainter } from './canvas-painter.js';
import type { LayerStack } from './layer-stack.js';
import type { PinBoard } from './pin-board.js';
import { Raster, type RasterWork } from './raster.js';

/** Content of a frame beside layers and pins. */
export interface FrameContent {
  readonly fix: Fix | undefined;
  /** Whether the label of the kite is open. */
  readonly kiteOpen: boolean;
  /** Whether only the empty sheet is shown. */
  readonly veiled: boolean;
  readonly units: UnitSystem;
  /** Milliseconds since 1970 UTC. */
  readonly now: number;
  readonly staleAfter: number | undefined;
}

/** Draws a map frame by frame: the picture that stays, and over it everything that changes. */
export class SheetFrame {
  readonly canvas: HTMLCanvasElement;
  readonly #screen: CanvasPainter;
  readonly #raster: Raster;
  readonly #layers: LayerStack;
  readonly #pins: PinBoard;

  constructor(layers: LayerStack, pins: PinBoard) {
    this.canvas = document.createElement('canvas');
    this.#screen = new CanvasPainter(this.canvas);
    this.#layers = layers;
    this.#pins = pins;
    this.#raster = new Raster(
      (camera, region) => [...layers.under(camera, region), ...pins.under(camera, region)],
      () => layers.bake(),
    );
  }

  get work(): RasterWork {
    return this.#raster.work;
  }

  set theme(theme: Theme) {
    this.#screen.theme = theme;
    this.#raster.theme = theme;
  }

  resize(width: number, height: number): void {
    const ratio = Math.min(3, window.devicePixelRatio || 1);
    this.#screen.resize(width, height, ratio);
    this.#raster.resize(width, height, ratio);
  }

  change(change: Change): void {
    if (change === 'all') this.#raster.spoil();
    else if (change !== 'over') this.#raster.renew(change);
  }

  /** Draws; with `hurried`, a zoomed picture may be stretched. Returns whether it was, and must be drawn again. */
  draw(camera: Camera, content: FrameContent, hurried: boolean): boolean {
    const { fix, veiled, units, now, staleAfter } = content;
    this.#layers.grow();
    const roomy = camera.width >= 640 && camera.height >= 400;
    const credit = this.#layers.credits.join(' · ');
    const margin = {
      width: roomy ? 26 : 6,
      foot: roomy ? 32 : 24,
      units,
      ...(credit !== '' && { credit }),
    };
    let stretched = false;
    this.#screen.clear();
    if (veiled) {
      this.#screen.paint([sheetOf('paper', LOOK.parchment, camera)]);
    } else {
      stretched = this.#raster.bring(camera, hurried);
      this.#raster.blit(this.#screen.context, camera);
      const room = new LabelRoom(withinMargin(camera, margin));
      const kite = kiteRoom(camera, content, room);
      // The user opened the label of a pin: names below it give way.
      const pins = this.#pins.over(camera, room);
      this.#screen.paint([
        ...kite,
        ...this.#layers.over(camera, room),
        ...pins,
        ...(fix === undefined
          ? []
          : [kiteLayer(fix, camera, { now, ...(staleAfter !== undefined && { staleAfter }) })]),
      ]);
    }
    if (!veiled) this.#screen.paint([marginLayer(camera, margin)]);
    return stretched;
  }
}

/** Keeps names off the kite; its own label comes first. */
function kiteRoom(camera: Camera, { fix, kiteOpen, now }: FrameContent, room: LabelRoom): Layer[] {
  if (fix === undefined) return [];
  const { x, y } = camera.pixelOf(fix);
  room.take(x - 20, y - 20, 40, 40);
  if (!kiteOpen) return [];
  const parts = [positionText(fix), accuracyText(fix.accuracy), ageText((now - fix.time) / 1000)];
  const text = parts.filter((part) => part !== '').join(' · ');
  return [{ id: 'kite-label', steps: labelSteps(text, x + 14, y - 30, room) }];
}

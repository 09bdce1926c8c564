import type {
  Fill,
  Hatch,
  ImageStep,
  Layer,
  ShapeStep,
  Step,
  Stroke,
  TextStep,
} from '../core/scene/scene.js';
import type { Pixel } from '../core/scene/camera.js';
import type { Region } from '../core/scene/region.js';
import { FONT_STACK } from '../core/scene/svg.js';
import type { MeasureText } from '../core/scene/text-width.js';
import { themed, type Theme } from '../core/scene/theme.js';

/** A text whose first letter is of a script that runs from right to left. */
const RIGHT_TO_LEFT =
  /^[^\p{L}]*[\p{Script=Hebrew}\p{Script=Arabic}\p{Script=Syriac}\p{Script=Thaana}\p{Script=Nko}]/u;
/** Measured texts that are kept. */
const MEASURED = 4000;

/** Maximum number of lines in one path. */
const BATCH = 64;

/** Paints layers on a canvas, in the same way as the SVG painter. */
export class CanvasPainter {
  readonly #context: CanvasRenderingContext2D;
  readonly #patterns: Map<string, CanvasPattern>;
  readonly #widths = new Map<string, number>();
  #ratio = 1;
  #family = FONT_STACK;
  #theme: Theme = 'day';
  #left = 0;
  #top = 0;
  #anchor: Pixel = { x: 0, y: 0 };

  /** @param patterns hatches, which painters may share. */
  constructor(canvas: HTMLCanvasElement, patterns = new Map<string, CanvasPattern>()) {
    this.#patterns = patterns;
    const context = canvas.getContext('2d');
    if (context === null) throw new Error('this browser provides no canvas');
    this.#context = context;
  }

  /** Sets the size in CSS pixels; `ratio` device pixels make one. */
  resize(width: number, height: number, ratio: number): void {
    const { canvas } = this.#context;
    canvas.width = Math.round(width * ratio);
    canvas.height = Math.round(height * ratio);
    canvas.style.width = `${width}px`;
    canvas.style.height = `${height}px`;
    this.#ratio = ratio;
  }

  get canvas(): HTMLCanvasElement {
    return this.#context.canvas;
  }

  get context(): CanvasRenderingContext2D {
    return this.#context;
  }

  set theme(theme: Theme) {
    this.#theme = theme;
  }

  /** Width of a text in CSS pixels, in the font that is there. */
  readonly measure: MeasureText = (text, size, weight = 400) => {
    const key = `${weight} ${size} ${text}`;
    let width = this.#widths.get(key);
    if (width === undefined) {
      this.#context.font = `${weight} ${size}px ${this.#family}`;
      this.#context.letterSpacing = '0px';
      width = this.#context.measureText(text).width;
      if (this.#widths.size >= MEASURED) this.#widths.clear();
      this.#widths.set(key, width);
    }
    return width;
  };

  /** Font family of texts, as in CSS. They are measured anew: the fonts may have been loaded since. */
  set family(family: string) {
    this.#family = family;
    this.#widths.clear();
  }

  /** Sets the size in device pixels, for a part of a picture. The canvas is cleared. */
  frame(width: number, height: number, ratio: number): void {
    const { canvas } = this.#context;
    if (canvas.width === width && canvas.height === height) {
      this.clear();
    } else {
      canvas.width = width;
      canvas.height = height;
    }
    this.#ratio = ratio;
  }

  /**
   * Where the canvas is in what is painted: `left` and `top` in device pixels from the origin of the steps. Hatches are
   * anchored at a place in CSS pixels from there, so that they continue from canvas to canvas.
   */
  place(left: number, top: number, anchor: Pixel): void {
    this.#left = left;
    this.#top = top;
    this.#anchor = anchor;
  }

  /** Clears the canvas for a new frame. */
  clear(): void {
    const context = this.#context;
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.clearRect(0, 0, context.canvas.width, context.canvas.height);
  }

  /** Paints over the picture. */
  paint(layers: readonly Layer[]): void {
    const context = this.#context;
    this.#toPicture();
    context.lineJoin = 'round';
    for (const layer of layers) {
      context.save();
      for (const step of layer.steps) this.#step(step);
      context.restore();
    }
  }

  /** Clears a part and paints it; nothing outside is touched. */
  paintPart(layers: readonly Layer[], [x1, y1, x2, y2]: Region): void {
    const context = this.#context;
    context.save();
    this.#toPicture();
    context.beginPath();
    // At device pixels: a clip through the middle of one would leave a seam.
    const [left, top] = [
      Math.floor(x1 * this.#ratio) / this.#ratio,
      Math.floor(y1 * this.#ratio) / this.#ratio,
    ];
    const [right, bottom] = [
      Math.ceil(x2 * this.#ratio) / this.#ratio,
      Math.ceil(y2 * this.#ratio) / this.#ratio,
    ];
    context.rect(left, top, right - left, bottom - top);
    context.clip();
    context.clearRect(left, top, right - left, bottom - top);
    this.paint(layers);
    context.restore();
  }

  #toPicture(): void {
    this.#context.setTransform(this.#ratio, 0, 0, this.#ratio, -this.#left, -this.#top);
  }

  #step(step: Step): void {
    const context = this.#context;
    switch (step.kind) {
      case 'clip':
        context.restore();
        context.save();
        if (step.rect === undefined) return;
        context.beginPath();
        context.rect(...step.rect);
        context.clip();
        return;
      case 'text':
        this.#text(step);
        return;
      case 'image':
        this.#image(step);
        return;
      case 'disc':
        context.beginPath();
        context.arc(step.x, step.y, step.radius, 0, 2 * Math.PI);
        break;
      case 'shape':
        if (step.fill === undefined && step.stroke !== undefined && step.rings.length > BATCH) {
          this.#crowd(step, step.stroke);
          return;
        }
        context.beginPath();
        for (const ring of step.rings) {
          for (let i = 0; i + 1 < ring.length; i += 2) {
            if (i === 0) context.moveTo(ring[0] as number, ring[1] as number);
            else context.lineTo(ring[i] as number, ring[i + 1] as number);
          }
          if (step.closed) context.closePath();
        }
    }
    if (step.fill !== undefined) {
      context.fillStyle = this.#fill(step.fill);
      context.fill('evenodd');
    }
    if (step.stroke !== undefined) this.#stroke(step.stroke);
  }

  /** Many lines are drawn in batches, because the cost of a path grows faster than its content. */
  #crowd({ rings, closed }: ShapeStep, stroke: Stroke): void {
    for (let start = 0; start < rings.length; start += BATCH) {
      this.#step({ kind: 'shape', rings: rings.slice(start, start + BATCH), closed, stroke });
    }
  }

  #stroke({ colour, width, dash, plain }: Stroke): void {
    const context = this.#context;
    context.strokeStyle = themed(colour, this.#theme);
    context.lineWidth = width;
    context.lineCap = dash === undefined && plain !== true ? 'round' : 'butt';
    context.lineJoin = plain === true ? 'bevel' : 'round';
    context.setLineDash(dash === undefined ? [] : [...dash]);
    context.stroke();
  }

  #text({ x, y, text, size, colour, anchor, weight, italic, halo, turn, spacing }: TextStep): void {
    const context = this.#context;
    context.save();
    context.translate(x, y);
    if (turn !== undefined) context.rotate((turn * Math.PI) / 180);
    context.font = `${italic === true ? 'italic ' : ''}${weight ?? 400} ${size}px ${this.#family}`;
    // By sides, not by the direction of the page; the text itself runs as its first letter does.
    context.textAlign = anchor === 'middle' ? 'center' : anchor === 'end' ? 'right' : 'left';
    context.direction = RIGHT_TO_LEFT.test(text) ? 'rtl' : 'ltr';
    context.letterSpacing = `${spacing ?? 0}px`;
    if (halo !== undefined) {
      context.strokeStyle = themed(halo, this.#theme);
      context.lineWidth = 3;
      context.setLineDash([]);
      context.strokeText(text, 0, 0);
    }
    context.fillStyle = themed(colour, this.#theme);
    context.fillText(text, 0, 0);
    context.restore();
  }

  #fill(fill: Fill): string | CanvasPattern {
    if (typeof fill === 'string') return themed(fill, this.#theme);
    const key = `${this.#theme}/${this.#ratio}/${fill.colour}/${fill.spacing}/${fill.width}/${fill.angle}`;
    const known = this.#patterns.get(key) ?? this.#hatch(fill);
    this.#patterns.set(key, known);
    const scale = fill.spacing / tileSide(fill, this.#ratio);
    const { x, y } = this.#anchor;
    known.setTransform(new DOMMatrix().translate(x, y).rotate(fill.angle).scale(scale));
    return known;
  }

  #image({ x, y, width, height, turn = 0, image, part }: ImageStep): void {
    const context = this.#context;
    const picture = image as ImageBitmap;
    const [left, top, wide, high] = part ?? [0, 0, picture.width, picture.height];
    context.save();
    context.translate(x, y);
    if (turn !== 0) context.rotate((turn * Math.PI) / 180);
    // Half a device pixel wider, so that no seam shows between two images.
    const over = 0.5 / this.#ratio;
    context.drawImage(picture, left, top, wide, high, 0, 0, width + over, height + over);
    context.restore();
  }

  /** One stroke on a tile of device pixels; `#fill` turns it as a whole. */
  #hatch(hatch: Hatch): CanvasPattern {
    const tile = document.createElement('canvas');
    const side = tileSide(hatch, this.#ratio);
    tile.width = tile.height = side;
    const context = tile.getContext('2d') as CanvasRenderingContext2D;
    context.strokeStyle = themed(hatch.colour, this.#theme);
    context.lineWidth = (hatch.width * side) / hatch.spacing;
    context.beginPath();
    context.moveTo(0, side / 2);
    context.lineTo(side, side / 2);
    context.stroke();
    return this.#context.createPattern(tile, 'repeat') as CanvasPattern;
  }
}

/** Device pixels of a hatch tile: twice the size at which it is shown. */
function tileSide({ spacing }: Hatch, ratio: number): number {
  return Math.max(2, Math.round(spacing * ratio * 2));
}

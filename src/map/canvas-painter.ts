import type { Fill, Hatch, Layer, Step, Stroke, TextStep } from '../core/scene/scene.js';
import { FONT_STACK } from '../core/scene/svg.js';

/** Paints layers onto a canvas, in the same way as the SVG painter writes them. */
export class CanvasPainter {
  readonly #context: CanvasRenderingContext2D;
  readonly #patterns = new Map<string, CanvasPattern>();
  #ratio = 1;

  constructor(canvas: HTMLCanvasElement) {
    const context = canvas.getContext('2d');
    if (context === null) throw new Error('this browser gives no canvas to draw on');
    this.#context = context;
  }

  /** Sizes the canvas in CSS pixels; `ratio` device pixels make one of them. */
  resize(width: number, height: number, ratio: number): void {
    const { canvas } = this.#context;
    canvas.width = Math.round(width * ratio);
    canvas.height = Math.round(height * ratio);
    canvas.style.width = `${width}px`;
    canvas.style.height = `${height}px`;
    if (ratio !== this.#ratio) this.#patterns.clear();
    this.#ratio = ratio;
  }

  /** Clears and paints. */
  paint(layers: readonly Layer[]): void {
    const context = this.#context;
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.clearRect(0, 0, context.canvas.width, context.canvas.height);
    context.setTransform(this.#ratio, 0, 0, this.#ratio, 0, 0);
    context.lineJoin = 'round';
    for (const layer of layers) {
      context.save();
      for (const step of layer.steps) this.#step(step);
      context.restore();
    }
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
      case 'disc':
        context.beginPath();
        context.arc(step.x, step.y, step.radius, 0, 2 * Math.PI);
        break;
      case 'shape':
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

  #stroke({ colour, width, dash }: Stroke): void {
    const context = this.#context;
    context.strokeStyle = colour;
    context.lineWidth = width;
    context.lineCap = dash === undefined ? 'round' : 'butt';
    context.setLineDash(dash === undefined ? [] : [...dash]);
    context.stroke();
  }

  #text({ x, y, text, size, colour, anchor, weight, italic, halo, turn, spacing }: TextStep): void {
    const context = this.#context;
    context.save();
    context.translate(x, y);
    if (turn !== undefined) context.rotate((turn * Math.PI) / 180);
    context.font = `${italic === true ? 'italic ' : ''}${weight ?? 400} ${size}px ${FONT_STACK}`;
    context.textAlign = anchor === 'middle' ? 'center' : (anchor ?? 'start');
    context.letterSpacing = `${spacing ?? 0}px`;
    if (halo !== undefined) {
      context.strokeStyle = halo;
      context.lineWidth = 3;
      context.setLineDash([]);
      context.strokeText(text, 0, 0);
    }
    context.fillStyle = colour;
    context.fillText(text, 0, 0);
    context.restore();
  }

  #fill(fill: Fill): string | CanvasPattern {
    if (typeof fill === 'string') return fill;
    const key = `${fill.colour}/${fill.spacing}/${fill.width}/${fill.angle}`;
    const known = this.#patterns.get(key);
    if (known !== undefined) return known;
    const made = this.#hatch(fill);
    this.#patterns.set(key, made);
    return made;
  }

  /** One stroke on a tile of device pixels, turned as a whole. */
  #hatch({ colour, spacing, width, angle }: Hatch): CanvasPattern {
    const tile = document.createElement('canvas');
    const side = Math.max(2, Math.round(spacing * this.#ratio * 2));
    tile.width = tile.height = side;
    const context = tile.getContext('2d') as CanvasRenderingContext2D;
    const scale = side / spacing;
    context.strokeStyle = colour;
    context.lineWidth = width * scale;
    context.beginPath();
    context.moveTo(0, side / 2);
    context.lineTo(side, side / 2);
    context.stroke();
    const pattern = this.#context.createPattern(tile, 'repeat') as CanvasPattern;
    pattern.setTransform(new DOMMatrix().rotate(angle).scale(1 / scale));
    return pattern;
  }
}

import { xmlText } from '../formats/xml.js';
import { themed, type Theme } from './theme.js';
import type { Fill, Hatch, ImageStep, Scene, ShapeStep, Step, Stroke } from './scene.js';

/** Fonts of a picture, in order of preference. */
export const FONT_STACK = "'Source Sans 3', 'Source Sans Pro', sans-serif";

/**
 * Writes a scene as an SVG document. All text is escaped; it refers to nothing outside.
 *
 * @param ids prefix of its ids, for several pictures in one page.
 */
export function writeSvg(scene: Scene, theme: Theme = 'day', ids = ''): string {
  const painter = new SvgPainter(theme, ids);
  const body = scene.layers
    .map(({ id, steps }) => `<g id="${xmlText(ids + id)}">\n${painter.steps(steps)}</g>\n`)
    .join('');
  const { width, height } = scene;
  return (
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}" ` +
    `role="img" font-family="${FONT_STACK}">\n<title>${xmlText(scene.title)}</title>\n` +
    `${painter.definitions()}${body}</svg>\n`
  );
}

class SvgPainter {
  readonly #theme: Theme;
  readonly #ids: string;
  readonly #patterns = new Map<string, string>();
  #clips = 0;
  #clipDefinitions = '';

  constructor(theme: Theme, ids: string) {
    this.#theme = theme;
    this.#ids = ids;
  }

  #ink(colour: string): string {
    return themed(colour, this.#theme);
  }

  steps(steps: readonly Step[]): string {
    let text = '';
    let clipped = false;
    for (const step of steps) {
      if (step.kind === 'clip') {
        if (clipped) text += '</g>\n';
        clipped = step.rect !== undefined;
        if (step.rect !== undefined) text += this.#clip(step.rect);
      } else {
        text += this.#step(step);
      }
    }
    return clipped ? `${text}</g>\n` : text;
  }

  definitions(): string {
    const all = [...this.#patterns.values()].join('') + this.#clipDefinitions;
    return all === '' ? '' : `<defs>\n${all}</defs>\n`;
  }

  #step(step: Exclude<Step, { kind: 'clip' }>): string {
    switch (step.kind) {
      case 'image':
        return imageTag(step);
      case 'shape':
        return (
          `<path d="${pathData(step)}"${this.#paint(step.fill, step.stroke)}` +
          `${step.closed ? ' fill-rule="evenodd"' : ''}/>\n`
        );
      case 'disc':
        return (
          `<circle cx="${px(step.x)}" cy="${px(step.y)}" ` +
          `r="${px(step.radius)}"${this.#paint(step.fill, step.stroke)}/>\n`
        );
      case 'text': {
        const { anchor = 'start', weight = 400, italic, halo, turn, spacing } = step;
        return (
          `<text x="${px(step.x)}" y="${px(step.y)}" font-size="${px(step.size)}" fill="${this.#ink(step.colour)}"` +
          (anchor === 'start' ? '' : ` text-anchor="${anchor}"`) +
          (weight === 400 ? '' : ` font-weight="${weight}"`) +
          (italic === true ? ' font-style="italic"' : '') +
          (spacing === undefined ? '' : ` letter-spacing="${px(spacing)}"`) +
          (turn === undefined ? '' : ` transform="rotate(${px(turn)} ${px(step.x)} ${px(step.y)})"`) +
          (halo === undefined
            ? ''
            : ` stroke="${this.#ink(halo)}" stroke-width="3" stroke-linejoin="round" paint-order="stroke"`) +
          `>${xmlText(step.text)}</text>\n`
        );
      }
    }
  }

  #paint(fill: Fill | undefined, stroke: Stroke | undefined): string {
    const filled =
      fill === undefined
        ? 'none'
        : typeof fill === 'string'
          ? this.#ink(fill)
          : `url(#${this.#pattern(fill)})`;
    if (stroke === undefined) return ` fill="${filled}"`;
    const dash = stroke.dash === undefined ? '' : ` stroke-dasharray="${stroke.dash.join(' ')}"`;
    const cap = stroke.dash === undefined ? 'round' : 'butt';
    return (
      ` fill="${filled}" stroke="${this.#ink(stroke.colour)}" stroke-width="${px(stroke.width)}" ` +
      `stroke-linecap="${cap}" stroke-linejoin="round"${dash}`
    );
  }

  #pattern(hatch: Hatch): string {
    const { colour, spacing, width, angle } = hatch;
    const key = `${colour}/${spacing}/${width}/${angle}`;
    const id = `${this.#ids}hatch-${colour.replace('#', '')}-${spacing}-${angle}`.replaceAll('.', '_');
    if (!this.#patterns.has(key)) {
      this.#patterns.set(
        key,
        `<pattern id="${id}" width="${spacing}" height="${spacing}" patternUnits="userSpaceOnUse" ` +
          `patternTransform="rotate(${angle})">` +
          `<line x1="0" y1="${spacing / 2}" x2="${spacing}" y2="${spacing / 2}" ` +
          `stroke="${this.#ink(colour)}" stroke-width="${width}"/></pattern>\n`,
      );
    }
    return id;
  }

  #clip([x, y, width, height]: readonly [number, number, number, number]): string {
    const id = `${this.#ids}clip-${++this.#clips}`;
    this.#clipDefinitions +=
      `<clipPath id="${id}"><rect x="${px(x)}" y="${px(y)}" width="${px(width)}" ` +
      `height="${px(height)}"/></clipPath>\n`;
    return `<g clip-path="url(#${id})">\n`;
  }
}

/** A picture that is part of the document: an SVG of this library refers to nothing outside. */
function imageTag({ x, y, width, height, turn = 0, image }: ImageStep): string {
  if (typeof image !== 'string' || !/^data:image\/(png|jpeg|webp);base64,[\w+/=]+$/.test(image)) return '';
  const turned = turn === 0 ? '' : ` transform="rotate(${px(turn)} ${px(x)} ${px(y)})"`;
  return (
    `<image x="${px(x)}" y="${px(y)}" width="${px(width)}" height="${px(height)}"${turned} ` +
    `preserveAspectRatio="none" href="${image}"/>\n`
  );
}

function pathData({ rings, closed }: ShapeStep): string {
  let data = '';
  for (const ring of rings) {
    for (let i = 0; i + 1 < ring.length; i += 2) {
      data += `${i === 0 ? 'M' : 'L'}${px(ring[i] as number)} ${px(ring[i + 1] as number)}`;
    }
    if (closed && ring.length > 0) data += 'Z';
  }
  return data;
}

/** Pixels to a tenth: finer steps are invisible, coarser ones are visible. */
function px(value: number): string {
  return String(Math.round(value * 10) / 10 || 0);
}

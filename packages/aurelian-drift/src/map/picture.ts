import type { Camera } from '../core/scene/camera.js';
import { sharedRegion, widened, type Region } from '../core/scene/region.js';
import type { Layer } from '../core/scene/scene.js';
import type { Theme } from '../core/scene/theme.js';
import { CanvasPainter } from './canvas-painter.js';

/** Side of a square in CSS pixels, about; and device pixels of its rim, which the next squares repeat. */
const SIDE = 128;
const RIM = 1;
/** Pixels around the visible part that the camera of the squares has: more than those that are painted before. */
const AROUND = 400;

/** How squares are painted. */
export interface PictureLook {
  /** Device pixels that make one CSS pixel. */
  readonly ratio: number;
  readonly theme: Theme;
  /** Font family of texts. */
  readonly family: string;
}

interface Square {
  readonly column: number;
  readonly row: number;
  readonly painter: CanvasPainter;
}

/** A square that is to be painted. */
export type Place = readonly [column: number, row: number];

/** What a picture shows near a region of a camera. */
export type PictureContent = (camera: Camera, region: Region) => readonly Layer[];

/** The camera that squares are painted with, and where its own corner is in the picture, in pixels. */
interface Aim {
  readonly camera: Camera;
  readonly x: number;
  readonly y: number;
}

/**
 * A picture of the map at one zoom and turn, in squares that are painted one by one. It has no edge: its pixels are
 * those of the camera that it began with, and go on beyond it. It is painted with a camera that goes along with the
 * view, because layers may end with the picture of their camera.
 */
export class Picture {
  /** Camera whose pixels the squares have. */
  readonly camera: Camera;
  readonly #look: PictureLook;
  /** Side of a square in device pixels, and in CSS pixels. */
  readonly #device: number;
  readonly #side: number;
  readonly #squares = new Map<string, Square>();
  readonly #spare: CanvasPainter[] = [];
  readonly #patterns = new Map<string, CanvasPattern>();
  #aim: Aim;

  constructor(camera: Camera, look: PictureLook) {
    this.camera = camera;
    this.#look = look;
    this.#device = Math.round(SIDE * look.ratio);
    this.#side = this.#device / look.ratio;
    this.#aim = this.#aimAt(this.seenBy(camera));
  }

  /** The part of it that another camera of the same zoom and turn shows. */
  seenBy(camera: Camera): Region {
    const { x, y } = this.camera.pixelOf(camera.centre);
    const [left, top] = [x - camera.width / 2, y - camera.height / 2];
    return [left, top, left + camera.width, top + camera.height];
  }

  /** A part of it is seen, and squares near it will be painted. */
  aim(seen: Region): void {
    const { camera, x, y } = this.#aim;
    const [x1, y1, x2, y2] = widened(seen, AROUND - this.#side);
    if (x1 < x || y1 < y || x2 > x + camera.width || y2 > y + camera.height) this.#aim = this.#aimAt(seen);
  }

  #aimAt([x1, y1, x2, y2]: Region): Aim {
    const { camera } = this;
    // By whole squares: a part that is painted again has the same edges in device pixels.
    const [dx, dy] = [(x1 + x2 - camera.width) / 2, (y1 + y2 - camera.height) / 2].map(
      (move) => Math.round(move / this.#side) * this.#side,
    ) as [number, number];
    const size = { width: x2 - x1 + 2 * AROUND, height: y2 - y1 + 2 * AROUND };
    const aimed = camera.panned(-dx, -dy).with(size);
    // At the edges of the world a camera goes less far than it was sent.
    const { x, y } = camera.pixelOf(aimed.centre);
    return { camera: aimed, x: x - size.width / 2, y: y - size.height / 2 };
  }

  /** Squares of a region that are not painted, those nearest to its middle first. */
  missing([x1, y1, x2, y2]: Region): Place[] {
    const side = this.#side;
    const places: Place[] = [];
    for (let row = Math.floor(y1 / side); row * side < y2; row++)
      for (let column = Math.floor(x1 / side); column * side < x2; column++)
        if (!this.#squares.has(`${column}/${row}`)) places.push([column, row]);
    const far = ([column, row]: Place) =>
      Math.max(Math.abs((column + 0.5) * side - (x1 + x2) / 2), Math.abs((row + 0.5) * side - (y1 + y2) / 2));
    return places.sort((a, b) => far(a) - far(b));
  }

  /** Paints a square. */
  paint([column, row]: Place, content: PictureContent): void {
    const square = this.#square(column, row);
    this.#paintOn(square, [column, row], this.#regionOf(column, row), content);
  }

  /** Paints all squares of a region in one go, which is quicker than one by one. */
  paintAll([x1, y1, x2, y2]: Region, content: PictureContent): void {
    const side = this.#side;
    const [column, row] = [Math.floor(x1 / side), Math.floor(y1 / side)];
    const [columns, rows] = [Math.ceil(x2 / side) - column, Math.ceil(y2 / side) - row];
    const whole = this.#painter();
    this.#frame(whole, columns, rows);
    this.#paintOn(whole, [column, row], this.#regionOf(column, row, columns, rows), content);
    for (let i = 0; i < columns; i++)
      for (let j = 0; j < rows; j++) {
        const { context } = this.#square(column + i, row + j);
        context.setTransform(1, 0, 0, 1, 0, 0);
        context.drawImage(whole.canvas, -i * this.#device, -j * this.#device);
      }
  }

  /** Paints a part again, in the squares that are there. @param regionFor the part, for the camera that paints it. */
  renew(regionFor: (camera: Camera) => Region | undefined, content: PictureContent): boolean {
    const { camera, x, y } = this.#aim;
    const region = regionFor(camera);
    if (region === undefined) return false;
    for (const { column, row, painter } of this.#squares.values()) {
      const part = sharedRegion(moved(region, x, y), this.#regionOf(column, row));
      if (part === undefined) continue;
      this.#place(painter, column, row);
      const own = moved(part, -x, -y);
      painter.paintPart(content(camera, own), own);
    }
    return true;
  }

  #paintOn(painter: CanvasPainter, [column, row]: Place, region: Region, content: PictureContent): void {
    const { camera, x, y } = this.#aim;
    this.#place(painter, column, row);
    painter.paint(content(camera, moved(region, -x, -y)));
  }

  /** An empty square. */
  #square(column: number, row: number): CanvasPainter {
    const painter = this.#spare.pop() ?? this.#painter();
    this.#frame(painter, 1, 1);
    this.#squares.set(`${column}/${row}`, { column, row, painter });
    return painter;
  }

  #painter(): CanvasPainter {
    const painter = new CanvasPainter(document.createElement('canvas'), this.#patterns);
    painter.theme = this.#look.theme;
    painter.family = this.#look.family;
    return painter;
  }

  /** Gives a canvas the size of a number of squares, with their rim. */
  #frame(painter: CanvasPainter, columns: number, rows: number): void {
    const size = (count: number) => count * this.#device + 2 * RIM;
    painter.frame(size(columns), size(rows), this.#look.ratio);
  }

  /** Puts a canvas at a square, for the camera that paints now. */
  #place(painter: CanvasPainter, column: number, row: number): void {
    const { x, y } = this.#aim;
    const { ratio } = this.#look;
    const at = (index: number, corner: number) => index * this.#device - RIM - corner * ratio;
    painter.place(at(column, x), at(row, y), { x: -x, y: -y });
  }

  /** Gives up squares that are not near a region. */
  keepNear(region: Region): void {
    for (const [key, { column, row, painter }] of this.#squares) {
      if (sharedRegion(region, this.#regionOf(column, row)) !== undefined) continue;
      this.#squares.delete(key);
      this.#spare.push(painter);
    }
  }

  /** Copies it to a canvas, as a camera sees it; of another zoom or turn, stretched. */
  copyTo(context: CanvasRenderingContext2D, camera: Camera): void {
    const { ratio } = this.#look;
    const own = this.camera;
    const scale = 2 ** (camera.zoom - own.zoom);
    const turn = ((own.turn - camera.turn) * Math.PI) / 180;
    const at = camera.pixelOf(own.centre);
    context.save();
    context.setTransform(1, 0, 0, 1, 0, 0);
    let [left, top] = [(-own.width / 2) * ratio, (-own.height / 2) * ratio];
    if (scale === 1 && turn === 0) {
      left = Math.round(left + at.x * ratio);
      top = Math.round(top + at.y * ratio);
    } else {
      context.translate(at.x * ratio, at.y * ratio);
      context.rotate(turn);
      context.scale(scale, scale);
    }
    const size = this.#device;
    for (const { column, row, painter } of this.#squares.values())
      context.drawImage(painter.canvas, left + column * size - RIM, top + row * size - RIM);
    context.restore();
  }

  /** The region of a square with its rim, or of some squares in columns and rows. */
  #regionOf(column: number, row: number, columns = 1, rows = 1): Region {
    const side = this.#side;
    const squares: Region = [column * side, row * side, (column + columns) * side, (row + rows) * side];
    return widened(squares, RIM / this.#look.ratio);
  }
}

function moved([x1, y1, x2, y2]: Region, dx: number, dy: number): Region {
  return [x1 + dx, y1 + dy, x2 + dx, y2 + dy];
}

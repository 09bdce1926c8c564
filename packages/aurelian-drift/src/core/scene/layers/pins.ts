import { list } from '../../check/options.js';
import { boundsOf, type Bounds } from '../../geodesy/bounds.js';
import type { Camera, Pixel } from '../camera.js';
import type { LayerKind, ReadyLayer } from '../layer-kind.js';
import { LOOK } from '../look.js';
import type { MapWords } from '../map-words.js';
import { mercatorX, mercatorY } from '../mercator.js';
import { isInPicture, wholeOf, widened, type Region } from '../region.js';
import type { Layer, Step } from '../scene.js';
import type { Words } from '../words.js';
import type { LabelRoom } from './label-room.js';
import type { Pin, PinShape } from './pin.js';
import { pinFrom, type PinOptions } from './pin-from.js';
import { paperLabel } from './paper-label.js';

/** Pixels from the point to the middle of the head, and its radius. */
const SHAFT = 25;
const HEAD = 5.5;
/** Pixels around a pin that count as a tap on it. */
const REACH = 14;
/** Pixels that a lifted pin is held above its place. */
const LIFT = 9;

/** Whether a pixel is on a pin whose point is at another pixel. */
export function onPin(dx: number, dy: number): boolean {
  return Math.abs(dx) <= REACH && dy <= 6 && dy >= -(SHAFT + HEAD + 6);
}

/** A pin prepared for drawing. */
export interface PinOnSheet {
  readonly pin: Pin;
  /** On the Mercator square. */
  readonly x: number;
  readonly y: number;
}

export function pinOnSheet(pin: Pin): PinOnSheet {
  return { pin, x: mercatorX(pin.lon), y: mercatorY(pin.lat) };
}

/** The region of a picture that a pin at a pixel may cover. */
export function pinRegion({ x, y }: Pixel): Region {
  return [x - 18, y - SHAFT - 14, x + 18, y + 14];
}

/**
 * Pins near a region, without their labels. Of several pins at the same two pixels only one is drawn: it hides the
 * others.
 */
function pinsLayer(
  pins: Iterable<PinOnSheet>,
  camera: Camera,
  region: Region = wholeOf(camera),
  except?: string,
): Layer {
  const [x1, y1, x2, y2] = widened(region, 20);
  const taken = new Set<number>();
  const steps: Step[] = [];
  // The first one drawn is lowest: southern pins stand before northern ones.
  for (const { pin, x: wx, y: wy } of pins) {
    const { x, y } = camera.pixelOfWorld(wx, wy);
    if (x < x1 || x > x2 || y < y1 || y > y2 + SHAFT || pin.id === except) continue;
    const cell = Math.round(x / 2) * 65_536 + Math.round(y / 2);
    if (taken.has(cell)) continue;
    taken.add(cell);
    steps.push(...pinSteps(pin, x, y, 0));
  }
  return { id: 'pins', steps };
}

/** A pin that the user has lifted, with its label when that is open. */
export function heldPin(pin: Pin, camera: Camera, room: LabelRoom): Step[] {
  const { x, y } = camera.pixelOf(pin);
  const label = pin.open === true && pin.text !== undefined ? pin.text : '';
  return [...pinSteps(pin, x, y - LIFT, LIFT), ...paperLabel(label, x, y - LIFT - SHAFT, room)];
}

/** Labels of open pins. */
function pinLabels(
  pins: Iterable<PinOnSheet>,
  camera: Camera,
  room: LabelRoom,
  except: string | undefined,
): Layer {
  const steps: Step[] = [];
  for (const { pin, x: wx, y: wy } of pins) {
    if (pin.open !== true || pin.text === undefined || pin.text === '' || pin.id === except) continue;
    const { x, y } = camera.pixelOfWorld(wx, wy);
    if (x < 0 || y < 0 || x > camera.width || y - SHAFT > camera.height) continue;
    steps.push(...paperLabel(pin.text, x, y - SHAFT, room));
  }
  return { id: 'labels', steps };
}

function pinSteps({ colour = LOOK.ink, shape = 'round' }: Pin, x: number, y: number, lift: number): Step[] {
  const top = y - SHAFT;
  const shaft: Step = {
    kind: 'shape',
    rings: [[x, y, x, top]],
    closed: false,
    stroke: { colour: LOOK.ink, width: 1.3 },
  };
  const rim = { colour: LOOK.parchment, width: 1.4 };
  const shadow: Step[] = lift === 0 ? [] : [{ kind: 'disc', x, y: y + lift, radius: 2.2, fill: LOOK.ink }];
  const heads: Readonly<Record<PinShape, Step>> = {
    round: { kind: 'disc', x, y: top, radius: HEAD, fill: colour, stroke: rim },
    square: {
      kind: 'shape',
      rings: [[x - HEAD, top - HEAD, x + HEAD, top - HEAD, x + HEAD, top + HEAD, x - HEAD, top + HEAD]],
      closed: true,
      fill: colour,
      stroke: rim,
    },
    flag: {
      kind: 'shape',
      rings: [[x, top - HEAD, x + 14, top - 1, x, top + 4]],
      closed: true,
      fill: colour,
      stroke: rim,
    },
  };
  return [...shadow, { ...shaft, stroke: { colour: LOOK.parchment, width: 3 } }, shaft, heads[shape]];
}

/** Pins that cannot be dragged; those that the user can tap and drag are the map's own `pins`. */
export interface PinsLayer {
  readonly kind: 'pins';
  readonly pins: readonly PinOptions[];
}

/** Pins prepared for drawing. */
export class PinsOnSheet implements ReadyLayer {
  readonly #pins: Iterable<PinOnSheet>;
  readonly #except: () => string | undefined;

  /** @param except id of one that is not drawn, because it is lifted. */
  constructor(pins: Iterable<PinOnSheet>, except: () => string | undefined = () => undefined) {
    this.#pins = pins;
    this.#except = except;
  }

  under(camera: Camera, region: Region): Layer[] {
    return [pinsLayer(this.#pins, camera, region, this.#except())];
  }

  over(camera: Camera, room: LabelRoom): Layer[] {
    return [pinLabels(this.#pins, camera, room, this.#except())];
  }

  /** Of several within reach, the one nearest to the pixel horizontally, and of those the last. */
  hit(x: number, y: number, camera: Camera): string | undefined {
    let found: string | undefined;
    let min = Infinity;
    for (const { pin, x: wx, y: wy } of this.#pins) {
      const pixel = camera.pixelOfWorld(wx, wy);
      const [dx, dy] = [x - pixel.x, y - pixel.y];
      if (!onPin(dx, dy)) continue;
      const far = Math.abs(dx);
      if (far <= min) [found, min] = [pin.id, far];
    }
    return found;
  }

  bounds(): Bounds | undefined {
    return boundsOf(Array.from(this.#pins, ({ pin }) => pin));
  }

  describe(camera: Camera | undefined, { texts }: MapWords): Words[] {
    const seen = [...this.#pins].filter(
      ({ x, y }) => camera === undefined || isInPicture(camera.pixelOfWorld(x, y), camera),
    );
    const names = seen.map(({ pin }) => pin.text ?? texts.noText);
    return [{ item: 'pins', count: seen.length, names }];
  }
}

export const PINS: LayerKind<PinsLayer> = {
  kind: 'pins',
  options: { pins: list },
  prepare({ pins }) {
    let count = 0;
    const made = pins.map((pin) => pinFrom(pin, () => `aurelian-pin-${++count}`));
    return new PinsOnSheet(made.map(pinOnSheet));
  },
};

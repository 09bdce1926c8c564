import type { Position } from '../../geodesy/position.js';
import type { Camera, Pixel } from '../camera.js';
import type { LayerKind, ReadyLayer } from '../layer-kind.js';
import { LOOK } from '../look.js';
import { mercatorX, mercatorY } from '../mercator.js';
import { wholeOf, widened, type Region } from '../region.js';
import type { Layer, Step } from '../scene.js';
import { textWidth } from '../text-width.js';
import type { Words } from '../words.js';
import type { LabelRoom } from './label-room.js';

export const PIN_SHAPES = ['round', 'square', 'flag'] as const;
/** Shape of the head of a pin. */
export type PinShape = (typeof PIN_SHAPES)[number];

/** A slim specimen pin: its point is the place. */
export interface Pin extends Position {
  readonly id: string;
  /** Text on a paper label beside it when open. Never interpreted as markup. */
  readonly text?: string;
  /** Whether the user may drag it. Default false. */
  readonly open?: boolean;
  /** Name of a group of pins, which can be removed together. */
  readonly group?: string;
  readonly draggable?: boolean;
  /** Colour of the head, `#rrggbb`. Default: ink. */
  readonly colour?: string;
  /** Shape of the head. Default `round`. */
  readonly shape?: PinShape;
}

/** Pixels from the point to the middle of the head, and its radius. */
const SHAFT = 25;
const HEAD = 5.5;
/** Pixels around a pin that count as a tap on it. */
const REACH = 14;
/** Size of a label's letters in pixels. */
const SIZE = 13;
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

export function pinsOnSheet(pins: readonly Pin[]): PinOnSheet[] {
  return pins.map((pin) => ({ pin, x: mercatorX(pin.lon), y: mercatorY(pin.lat) }));
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
  pins: readonly PinOnSheet[],
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

/** A pin that the user has lifted. */
export function heldPin(pin: Pin, camera: Camera): Step[] {
  const { x, y } = camera.pixelOf(pin);
  return pinSteps(pin, x, y - LIFT, LIFT);
}

/** Labels of open pins; one without room, right or left, is left out. */
function pinLabels(pins: readonly PinOnSheet[], camera: Camera, room: LabelRoom): Layer {
  const steps: Step[] = [];
  for (const { pin, x: wx, y: wy } of pins) {
    if (pin.open !== true || pin.text === undefined || pin.text === '') continue;
    const { x, y } = camera.pixelOfWorld(wx, wy);
    if (x < -20 || y < -10 || x > camera.width + 20 || y > camera.height + 50) continue;
    steps.push(...labelSteps(pin.text, x, y - SHAFT, room));
  }
  return { id: 'labels', steps };
}

/** A paper label beside a place, also for the kite. */
export function labelSteps(text: string, x: number, y: number, room: LabelRoom): Step[] {
  const width = textWidth(text, SIZE) + 14;
  const height = 20;
  const left = [x + 10, x - 10 - width].find((each) => room.take(each, y - height / 2, width, height));
  if (left === undefined) return [];
  const top = y - height / 2;
  const box = [left, top, left + width, top, left + width, top + height, left, top + height];
  return [
    {
      kind: 'shape',
      rings: [box],
      closed: true,
      fill: LOOK.parchment,
      stroke: { colour: LOOK.ink, width: 0.9 },
    },
    { kind: 'text', x: left + 7, y: top + 14.2, text, size: SIZE, colour: LOOK.ink },
  ];
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
  readonly pins: readonly Pin[];
}

/** Pins prepared for drawing. */
export class PinsOnSheet implements ReadyLayer {
  readonly #pins: readonly PinOnSheet[];
  readonly #except: () => string | undefined;

  /** @param except id of one that is not drawn, because it is lifted. */
  constructor(pins: readonly PinOnSheet[], except: () => string | undefined = () => undefined) {
    this.#pins = pins;
    this.#except = except;
  }

  under(camera: Camera, region: Region): Layer[] {
    return [pinsLayer(this.#pins, camera, region, this.#except())];
  }

  over(camera: Camera, room: LabelRoom): Layer[] {
    return [pinLabels(this.#pins, camera, room)];
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

  describe(camera: Camera | undefined): Words[] {
    const seen = this.#pins.filter(({ x: wx, y: wy }) => {
      if (camera === undefined) return true;
      const { x, y } = camera.pixelOfWorld(wx, wy);
      return x >= 0 && y >= 0 && x <= camera.width && y <= camera.height;
    });
    const names = seen.map(({ pin }) => pin.text ?? 'without text');
    return [{ one: 'pin', many: 'pins', count: seen.length, names }];
  }
}

export const PINS: LayerKind<PinsLayer> = {
  kind: 'pins',
  prepare: ({ pins }) => new PinsOnSheet(pinsOnSheet(pins)),
};

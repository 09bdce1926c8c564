import {
  abortSignal,
  anything,
  checkOptions,
  numberFrom,
  oneOf,
  someText,
  yesOrNo,
  isMissing,
} from '../core/check/options.js';
import { InputError } from '../core/check/input-error.js';
import { formatValue } from '../core/check/number.js';
import { decimalsProblem } from '../core/fix/formatter.js';
import { boundsProblem, type Bounds } from '../core/geodesy/bounds.js';
import type { Position } from '../core/geodesy/position.js';
import { positionOf } from '../core/geodesy/position.js';
import { MIN_ZOOM, MAX_ZOOM } from '../core/scene/camera.js';
import type { Ground } from '../core/scene/layers/ground.js';
import { UNIT_SYSTEMS, type UnitSystem } from '../core/fix/units.js';
import { STEERINGS, type SteeringMode } from '../core/scene/steering.js';
import type { Texts } from '../core/texts/texts.js';
import type { Receiver } from '../receiver/receiver.js';
import type { AbortSignalLike } from '../live/abort-signal.js';
import type { Warn } from '../live/warn.js';
import { GESTURE_SHARINGS, type GestureSharing } from './gesture-sink.js';
import { THEME_CHOICES, type ThemeChoice } from './theme-choice.js';
import type { ViewStorage } from './view-memory.js';

/** Options of `MapSheet`. */
export interface MapSheetOptions {
  /** Element that holds the map, and determines its size. */
  readonly container: HTMLElement;
  /**
   * Centre of the first view. Default: that of the kept view, else of the content: ground, fences, trails, pins.
   * Without content, nothing is shown yet.
   */
  readonly centre?: Position;
  /**
   * Box that the first view shows, as far as `centre` and `zoom` leave it open: [west, south, east, north], degrees.
   */
  readonly bounds?: Bounds;
  /** Zoom of the first view, 0 to 22. */
  readonly zoom?: number;
  /** Degrees clockwise from true north that point up. Default 0. */
  readonly turn?: number;
  /** The background, as the layer `ground`: a parsed GeoJSON document, or what `groundFrom` made of it. */
  readonly ground?: Ground | object;
  /** Source of the data of the ground; always shown. */
  readonly credit?: string;
  /** Name of the map for screen readers. Default `Map`. */
  readonly label?: string;
  /** Receiver whose fixes are shown as the own place; failures are shown in the map. */
  readonly receiver?: Receiver;
  /** How the view follows the own place. Default `centred`. */
  readonly steering?: SteeringMode;
  /** Width in metres that the first fix is shown with. Default: four times its accuracy ring. */
  readonly firstWidth?: number;
  /** Share of the height, 0 to 0.4, by which the own place is below the middle while the course is up. Default 0.2. */
  readonly ahead?: number;
  /** Seconds after the last touch at which following resumes by itself. Default: never. */
  readonly resumeAfter?: number;
  /** Name under which a view that the user chose is stored between visits. Default: not stored. */
  readonly keepView?: string;
  /** Storage of the view. Default: the local storage of the page. */
  readonly storage?: ViewStorage;
  /** Colours of the map; `auto` is day or dusk as the device prefers. Default `day`. */
  readonly theme?: ThemeChoice;
  /** Units of the scale, the labels and the description. Default `metric`. */
  readonly units?: UnitSystem;
  /** Decimals of positions in labels and in the description: 0 to 9, or `auto` from the accuracy. Default 5. */
  readonly decimals?: number | 'auto';
  /**
   * Who has the wheel and one finger: the map alone (`own`), or the page, with two fingers or a modifier key for the
   * map (`shared`), for a map inside a page that scrolls. Default `own`.
   */
  readonly gestures?: GestureSharing;
  /** Texts for the user. Default: English. */
  readonly texts?: Texts | undefined;
  /** Whether the strip of controls is shown. Default true. */
  readonly controls?: boolean;
  /**
   * Called when the user asks for the own place and there is neither a fix nor a receiver: the moment to ask for one.
   */
  readonly onOwnPlace?: () => void;
  /** Current time for ages, milliseconds since 1970 UTC. Default: the clock of the platform. */
  readonly now?: () => number;
  /** Seconds after which the kite fades and shows its age. Default 15. */
  readonly staleAfter?: number;
  /** Receives messages for the developer. Default: the console. */
  readonly warn?: Warn;
  /** Closes the map when it aborts. */
  readonly signal?: AbortSignalLike;
}

/** Rules for options that can be changed later. */
export const LOOK_RULES = {
  centre: anything,
  zoom: numberFrom(MIN_ZOOM, MAX_ZOOM, ''),
  turn: numberFrom(-360, 360, 'degrees'),
};

export const PAINT_RULES = {
  theme: oneOf(...THEME_CHOICES),
  units: oneOf(...UNIT_SYSTEMS),
  steering: oneOf(...STEERINGS),
  decimals: decimalsProblem,
  gestures: oneOf(...GESTURE_SHARINGS),
};

function containerProblem(value: unknown): string | undefined {
  if (typeof value === 'object' && value !== null && 'attachShadow' in value) return undefined;
  const hint =
    typeof value === 'string'
      ? `; give the element: document.querySelector(${JSON.stringify(value.slice(0, 60))})`
      : isMissing(value)
        ? '; is the script run before the element is there, or is its id misspelt?'
        : '';
  return `must be an element, got ${formatValue(value)}${hint}`;
}

/** @throws {InputError} for a misspelt option, an impossible centre, or a zoom outside 0 to 22. */
export function checkMapSheet(options: MapSheetOptions): void {
  if (isMissing(options) || typeof options !== 'object')
    throw new InputError('bad-value', `MapSheet needs options, got ${formatValue(options)}`);
  if (isMissing(options.container))
    throw new InputError('bad-value', `MapSheet: container ${containerProblem(options.container)}`);
  checkOptions('MapSheet', options, {
    container: containerProblem,
    bounds: boundsProblem,
    ...LOOK_RULES,
    ground: anything,
    credit: someText,
    label: someText,
    receiver: anything,
    firstWidth: numberFrom(1, 1e7, 'metres'),
    ahead: numberFrom(0, 0.4, ''),
    resumeAfter: numberFrom(0, 3600, 'seconds'),
    keepView: someText,
    storage: anything,
    ...PAINT_RULES,
    texts: anything,
    controls: yesOrNo,
    onOwnPlace: anything,
    now: anything,
    staleAfter: numberFrom(0, 86_400, 'seconds'),
    warn: anything,
    signal: abortSignal,
  });
  const { centre } = options;
  if (centre !== undefined) positionOf(centre);
}

import {
  abortSignal,
  anything,
  checkOptions,
  numberFrom,
  oneOf,
  someText,
  yesOrNo,
} from '../core/check/options.js';
import type { Position } from '../core/geodesy/position.js';
import { positionOf } from '../core/geodesy/position.js';
import { MIN_ZOOM, MAX_ZOOM } from '../core/scene/camera.js';
import type { Ground } from '../core/scene/layers/ground.js';
import { UNIT_SYSTEMS, type UnitSystem } from '../core/fix/units.js';
import { STEERINGS, type SteeringMode } from '../core/scene/steering.js';
import { THEMES, type Theme } from '../core/scene/theme.js';
import type { Texts } from '../core/texts/texts.js';
import type { Receiver } from '../receiver/receiver.js';
import type { AbortSignalLike } from '../live/abort-signal.js';
import type { Warn } from '../live/warn.js';
import type { ViewStorage } from './view-memory.js';

/** Options of `MapSheet`. */
export interface MapSheetOptions {
  /** Element that holds the map, and determines its size. */
  readonly container: HTMLElement;
  /** Centre of the first view. Default: that of the kept view, else the bounds of the ground, else the whole world. */
  readonly centre?: Position;
  /** Zoom of the first view, 0 to 22. */
  readonly zoom?: number;
  /** Degrees clockwise from true north that point up. Default 0. */
  readonly turn?: number;
  /** The background, as the layer `ground`. */
  readonly ground?: Ground;
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
  /** Colours of the map. Default `day`. */
  readonly theme?: Theme;
  /** Units of the scale. Default `metric`. */
  readonly units?: UnitSystem;
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

export const PAINT_RULES = { theme: oneOf(...THEMES), units: oneOf(...UNIT_SYSTEMS) };

/** @throws {InputError} for a misspelt option, an impossible centre, or a zoom outside 0 to 22. */
export function checkMapSheet(options: MapSheetOptions): void {
  checkOptions('MapSheet', options, {
    container: anything,
    ...LOOK_RULES,
    ground: anything,
    credit: someText,
    label: someText,
    receiver: anything,
    steering: oneOf(...STEERINGS),
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

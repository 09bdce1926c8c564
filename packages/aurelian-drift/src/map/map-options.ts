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
  /** The element that holds the map; its size is the map's. */
  readonly container: HTMLElement;
  /** Default: the kept view, else the ground's bounds, else the whole world. */
  readonly centre?: Position;
  /** 0 to 22. */
  readonly zoom?: number;
  /** Degrees clockwise from true north that point up. Default 0. */
  readonly turn?: number;
  /** The background, as the layer `ground`. */
  readonly ground?: Ground;
  /** Whom the ground's data is by; always shown. */
  readonly credit?: string;
  /** What the map is of, for those who do not see it. Default `Map`. */
  readonly label?: string;
  /** Shows its user's own place, and says within the map why it cannot. */
  readonly receiver?: Receiver;
  /** How the view follows the own place. Default `centred`. */
  readonly steering?: SteeringMode;
  /** Metres across that the first fix is shown with; by default its ring fits, four times over. */
  readonly firstWidth?: number;
  /**
   * Share of the height, 0 to 0.4, by which the own place is held below the middle while the course is up. Default 0.2.
   */
  readonly ahead?: number;
  /** Seconds after the hand's last touch at which following takes up again by itself. Default never. */
  readonly resumeAfter?: number;
  /** A name under which the view that a hand has chosen is kept from visit to visit. Default: it is not kept. */
  readonly keepView?: string;
  /** Where it is kept. Default the page's local storage. */
  readonly storage?: ViewStorage;
  /** Colours of the map. Default `day`. */
  readonly theme?: Theme;
  /** Units of the scale. Default `metric`. */
  readonly units?: UnitSystem;
  /** Texts for the user. Default: English. */
  readonly texts?: Texts | undefined;
  /** Whether the strip of controls is there. Default true. */
  readonly controls?: boolean;
  /** Called when the own place is wanted and there is no fix and no receiver: the moment to ask for one. */
  readonly onOwnPlace?: () => void;
  /** Milliseconds since 1970 UTC, for ages. Default the platform's time. */
  readonly now?: () => number;
  /** Seconds after which the kite fades and tells its age. Default 15. */
  readonly staleAfter?: number;
  /** Gets what a developer should know; by default the console does. */
  readonly warn?: Warn;
  /** Closes the map when it aborts. */
  readonly signal?: AbortSignalLike;
}

/** Rules of what may be changed later too. */
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

import type { Fence } from '../core/fence/fence.js';
import type { UnitSystem } from '../core/fix/units.js';
import type { Bounds } from '../core/geodesy/bounds.js';
import type { Position } from '../core/geodesy/position.js';
import type { Ground } from '../core/scene/layers/ground.js';
import type { SteeringMode } from '../core/scene/steering.js';
import type { Texts } from '../core/texts/texts.js';
import type { GestureSharing } from '../map/gesture-sink.js';
import type { ThemeChoice } from '../map/theme-choice.js';
import type { PlaceService } from '../places/place-service.js';
import type { ProfileName } from '../receiver/profiles.js';
import type { Receiver } from '../receiver/receiver.js';
import type { Source } from '../receiver/source.js';
// They also declare the events of the elements.
import type { ConsentElement } from './consent.js';
import type { FindElement } from './find.js';
import type { InspectorElement } from './inspector.js';
import type { MapElement } from './map.js';
import type { NearElement } from './near.js';
import type { ReceiverElement } from './receiver.js';

/** The class of each element. */
export interface ElementClasses {
  'aurelian-receiver': ReceiverElement;
  'aurelian-map': MapElement;
  'aurelian-consent': ConsentElement;
  'aurelian-find': FindElement;
  'aurelian-near': NearElement;
  'aurelian-inspector': InspectorElement;
}

/** Properties that most elements have. */
export interface CommonMarkup {
  theme?: ThemeChoice | undefined;
  texts?: Texts | undefined;
  receiver?: Receiver | undefined;
}

/** Attributes and properties of each element, as templates of frameworks set them. */
export interface ElementMarkup {
  'aurelian-receiver': CommonMarkup & {
    purpose?: string | undefined;
    accuracy?: number | string | undefined;
    patience?: number | string | undefined;
    every?: number | string | undefined;
    beyond?: number | string | undefined;
    profile?: ProfileName | undefined;
    follow?: boolean | '' | undefined;
    places?: string | PlaceService | undefined;
    fences?: string | undefined;
    units?: UnitSystem | undefined;
    source?: Source | undefined;
    onreceiverfix?: ((event: HTMLElementEventMap['receiverfix']) => void) | undefined;
    onreceiverfailure?: ((event: HTMLElementEventMap['receiverfailure']) => void) | undefined;
    onreceivercrossing?: ((event: HTMLElementEventMap['receivercrossing']) => void) | undefined;
  };
  'aurelian-map': CommonMarkup & {
    centre?: string | Position | undefined;
    zoom?: number | string | undefined;
    turn?: number | string | undefined;
    bounds?: string | Bounds | undefined;
    label?: string | undefined;
    ground?: string | Ground | object | undefined;
    credit?: string | undefined;
    steering?: SteeringMode | undefined;
    units?: UnitSystem | undefined;
    decimals?: number | string | undefined;
    gestures?: GestureSharing | undefined;
    'keep-view'?: string | undefined;
    controls?: boolean | string | undefined;
    fences?: readonly Fence[] | undefined;
    inside?: ReadonlySet<string> | undefined;
    onmapview?: ((event: HTMLElementEventMap['mapview']) => void) | undefined;
    onmaptap?: ((event: HTMLElementEventMap['maptap']) => void) | undefined;
    onmaphold?: ((event: HTMLElementEventMap['maphold']) => void) | undefined;
    onmapdrop?: ((event: HTMLElementEventMap['mapdrop']) => void) | undefined;
  };
  'aurelian-consent': CommonMarkup & { reason?: string | undefined; more?: string | undefined };
  'aurelian-find': CommonMarkup & {
    label?: string | undefined;
    units?: UnitSystem | undefined;
    places?: PlaceService | undefined;
    near?: Position | undefined;
    language?: string | readonly string[] | undefined;
    onchoose?: ((event: HTMLElementEventMap['choose']) => void) | undefined;
  };
  'aurelian-near': CommonMarkup & {
    label?: string | undefined;
    units?: UnitSystem | undefined;
    places?: PlaceService | undefined;
    within?: number | string | undefined;
    kinds?: string | undefined;
    max?: number | string | undefined;
    'open-now'?: boolean | '' | undefined;
    onchoose?: ((event: HTMLElementEventMap['choose']) => void) | undefined;
  };
  'aurelian-inspector': Omit<CommonMarkup, 'texts'>;
}

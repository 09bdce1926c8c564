import { InputError } from '../core/check/input-error.js';
import { formatValue } from '../core/check/number.js';
import type { Bounds } from '../core/geodesy/bounds.js';
import type { Position } from '../core/geodesy/position.js';
import type { MapSheetOptions } from '../map/map-options.js';
import type { MapSheet } from '../map/map-sheet.js';
import { numberOf, numbersOf, placeOf } from './attribute-values.js';

/** An attribute of the map element that is also a property of the same meaning. */
export interface MapAttribute {
  /** The property. */
  readonly property: string;
  /** The value of the attribute. @throws {InputError} for a text that is none. */
  read(text: string): unknown;
  /** The text of a value. */
  write(value: never): string;
  /** Option of a new map. Default: the name of the property. */
  readonly option?: keyof MapSheetOptions;
  /** Changes a map that is there; `undefined` is the default. */
  apply(sheet: MapSheet, value: never): void;
}

const text = { read: (given: string) => given, write: String };

/** Attributes of the map element, except those of its background. */
export const MAP_ATTRIBUTES = {
  centre: {
    property: 'centre',
    read: (given) => placeOf('<aurelian-map>: centre', given),
    write: ({ lat, lon }: Position) => `${lat},${lon}`,
    apply: (sheet, centre?: Position) => centre && sheet.look({ centre }),
  },
  zoom: {
    property: 'zoom',
    read: (given) => numberOf('<aurelian-map>: zoom', given),
    write: String,
    apply: (sheet, zoom?: number) => zoom !== undefined && sheet.look({ zoom }),
  },
  turn: {
    property: 'turn',
    read: (given) => numberOf('<aurelian-map>: turn', given),
    write: String,
    apply: (sheet, turn?: number) => sheet.look({ turn: turn ?? 0 }),
  },
  bounds: {
    property: 'bounds',
    read: boundsOfText,
    write: (bounds: Bounds) => bounds.join(','),
    apply: (sheet, bounds?: Bounds) => bounds && sheet.frame(bounds),
  },
  label: {
    property: 'label',
    ...text,
    apply: (sheet, label?: string) => (sheet.label = label),
  },
  steering: {
    property: 'steering',
    ...text,
    apply: (sheet, steering?: MapSheet['steering']) => sheet.steer(steering ?? 'centred'),
  },
  theme: {
    property: 'theme',
    ...text,
    apply: (sheet, theme?: MapSheet['theme']) => (sheet.theme = theme ?? 'day'),
  },
  units: {
    property: 'units',
    ...text,
    apply: (sheet, units?: MapSheet['units']) => (sheet.units = units ?? 'metric'),
  },
  decimals: {
    property: 'decimals',
    read: (given) => (given === 'auto' ? given : numberOf('<aurelian-map>: decimals', given)),
    write: String,
    apply: (sheet, decimals?: MapSheet['decimals']) => (sheet.decimals = decimals ?? 5),
  },
  gestures: {
    property: 'gestures',
    ...text,
    apply: (sheet, gestures?: MapSheet['gestures']) => (sheet.gestures = gestures ?? 'own'),
  },
  'keep-view': {
    property: 'keepView',
    ...text,
    apply: (sheet, keepView?: string) => (sheet.keepView = keepView),
  },
  controls: {
    property: 'controls',
    read(given) {
      if (given === 'none') return false;
      if (given === '' || given === 'strip') return true;
      throw new InputError(
        'bad-value',
        `<aurelian-map>: controls is "none" or "strip", got ${formatValue(given)}`,
      );
    },
    write: (shown: boolean) => (shown ? 'strip' : 'none'),
    apply: (sheet, shown?: boolean) => (sheet.controls = shown ?? true),
  },
} satisfies Readonly<Record<string, MapAttribute>>;

function boundsOfText(given: string): Bounds {
  const parts = numbersOf(given);
  if (parts.length !== 4 || parts.some(Number.isNaN))
    throw new InputError(
      'bad-value',
      '<aurelian-map>: bounds is written WEST,SOUTH,EAST,NORTH, like -33.66,44.17,-33.54,44.23; ' +
        `got ${formatValue(given)}`,
    );
  return parts as unknown as Bounds;
}

import { InputError } from '../core/check/input-error.js';
import { formatValue } from '../core/check/number.js';
import type { Bounds } from '../core/geodesy/bounds.js';
import { position, type Position } from '../core/geodesy/position.js';
import type { MapSheetOptions } from '../map/map-options.js';
import type { MapSheet } from '../map/map-sheet.js';

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
    read: placeOf,
    write: ({ lat, lon }: Position) => `${lat},${lon}`,
    apply: (sheet, centre?: Position) => centre && sheet.look({ centre }),
  },
  zoom: {
    property: 'zoom',
    read: (given) => numberOf('zoom', given),
    write: String,
    apply: (sheet, zoom?: number) => zoom !== undefined && sheet.look({ zoom }),
  },
  turn: {
    property: 'turn',
    read: (given) => numberOf('turn', given),
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
    read: (given) => (given === 'auto' ? given : numberOf('decimals', given)),
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

function placeOf(given: string): Position {
  const [lat, lon, ...more] = numbersOf(given);
  if (lat === undefined || lon === undefined || more.length > 0) {
    throw new InputError(
      'bad-value',
      `<aurelian-map>: centre is written LAT,LON, like 44.2,-33.6; got ${formatValue(given)}`,
    );
  }
  return position(lat, lon);
}

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

function numbersOf(given: string): number[] {
  return given.split(',').map((part) => (part.trim() === '' ? NaN : Number(part)));
}

function numberOf(name: string, given: string): number {
  const [number = NaN, ...more] = numbersOf(given);
  if (Number.isNaN(number) || more.length > 0)
    throw new InputError('bad-value', `<aurelian-map>: ${name} must be a number, got ${formatValue(given)}`);
  return number;
}

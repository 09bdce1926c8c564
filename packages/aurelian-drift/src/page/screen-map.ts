import { consoleWarn } from '../live/warn.js';
import type { MapSheetOptions } from '../map/map-options.js';
import { MapSheet } from '../map/map-sheet.js';
import { putGround, tellBy, type GivenGround } from './put-ground.js';

/** Options of the map of a screen: those of `MapSheet`, without its container. */
export type ScreenMapOptions = {
  readonly [Name in Exclude<keyof MapSheetOptions, 'container' | 'ground'>]?:
    MapSheetOptions[Name] | undefined;
} & {
  /**
   * The background: the address of a GeoJSON file, a template of tiles with `{z}`, `{x}` and `{y}`, `grid`, a parsed
   * document, or what `groundFrom` made of it.
   */
  readonly ground?: GivenGround | undefined;
};

/** Options that a map takes over while it is shown; the others are those of its beginning. */
const CHANGEABLE = [
  'receiver', 'label', 'controls', 'decimals', 'gestures', 'keepView', 'theme', 'units', 'texts',
] as const; // prettier-ignore
/** What a changeable option is where it is left out. */
const DEFAULTS: Partial<Record<(typeof CHANGEABLE)[number], unknown>> = {
  controls: true,
  decimals: 5,
  gestures: 'own',
  theme: 'day',
  units: 'metric',
};

/** Makes the map of a screen. */
export function screenMap(container: HTMLElement, options: ScreenMapOptions): MapSheet {
  const { ground, credit, ...rest } = options;
  const map = new MapSheet({ container, ...(rest as Omit<MapSheetOptions, 'container'>) });
  if (ground !== undefined) putGround(map, ground, credit, tellBy(options.warn ?? consoleWarn));
  return map;
}

/** Gives a map the options of the next drawing of its screen: those that have changed and that it can take over. */
export function changeMap(map: MapSheet, before: ScreenMapOptions, now: ScreenMapOptions): void {
  for (const name of CHANGEABLE)
    if (!Object.is(before[name], now[name])) Object.assign(map, { [name]: now[name] ?? DEFAULTS[name] });
  if (!Object.is(before.ground, now.ground))
    putGround(map, now.ground, now.credit, tellBy(now.warn ?? consoleWarn));
}

import type { Position } from 'aurelian-drift';
import { MapSheet, type MapSheetOptions } from 'aurelian-drift/map';
import { element } from '../shared/page.js';
import { offerOwnMap, showGround } from '../shared/own-map.js';
import { tapsOn } from '../shared/pretend-panel.js';

/* The map of the page: made when there is something to show, by a walk or by an opened trail. */

let shown: { readonly sheet: MapSheet; readonly place: Position | undefined } | undefined;
const listeners: ((sheet: MapSheet) => void)[] = [];

offerOwnMap(() => {
  if (shown !== undefined) showGround(shown.sheet, shown.place);
});

/** Makes the map, in the place of one that is there. */
export function makeMap(place?: Position, options: Partial<MapSheetOptions> = {}): MapSheet {
  shown?.sheet.close();
  const sheet = new MapSheet({
    container: element('map'),
    label: 'Map of the round',
    theme: 'auto',
    ...options,
  });
  shown = { sheet, place };
  showGround(sheet, place);
  tapsOn(sheet);
  for (const listener of listeners) listener(sheet);
  return sheet;
}

/** The map, which is made if there is none. */
export const theMap = (): MapSheet => shown?.sheet ?? makeMap();

/** Calls the function with each map that is made from now on. */
export function onMap(listener: (sheet: MapSheet) => void): void {
  listeners.push(listener);
}

/** Takes the map down. */
export function closeMap(): void {
  shown?.sheet.close();
  shown = undefined;
}

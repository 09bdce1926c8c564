import { fetchedJson } from './fetched-json.js';
import { groundOf, type Ground } from '../core/scene/layers/ground.js';
import { map as english } from '../core/texts/english.js';
import { partOf } from '../core/texts/part.js';
import { consoleWarn, type Warn } from '../live/warn.js';
import type { MapSheet } from '../map/map-sheet.js';

/**
 * A background: the address of a GeoJSON file, a template of tiles with `{z}`, `{x}` and `{y}`, `grid`, a parsed
 * document, or what `groundFrom` made of it.
 */
export type GivenGround = string | Ground | object;

/** The background that a map was given last: an older one that arrives late is dropped. */
const wanted = new WeakMap<MapSheet, object>();

/**
 * Gives a map its background; `undefined` takes it away. One that cannot be loaded is told in the map.
 *
 * @param credit source of its data, which is shown; tiles need one.
 * @param tell takes the reason for the developer. Default: the console.
 */
export function putGround(
  sheet: MapSheet,
  ground: GivenGround | undefined,
  credit?: string,
  tell: (error: unknown) => void = tellBy(consoleWarn),
): void {
  sheet.awaitBackground(put(sheet, ground, credit, tell));
}

async function put(
  sheet: MapSheet,
  ground: GivenGround | undefined,
  credit: string | undefined,
  tell: (error: unknown) => void,
): Promise<void> {
  const mine = {};
  wanted.set(sheet, mine);
  sheet.note('content', undefined);
  if (ground === undefined || ground === 'grid') {
    for (const id of ['ground', 'tiles']) sheet.layers.remove(id);
    if (ground === 'grid') sheet.layers.put('grid', { kind: 'grid' });
    return;
  }
  try {
    if (typeof ground === 'string' && ground.includes('{')) {
      sheet.layers.remove('ground');
      sheet.layers.put('tiles', { kind: 'tiles', template: ground, credit: credit ?? '' });
      return;
    }
    const content = groundOf(typeof ground === 'string' ? await fetchedJson(ground) : ground);
    if (wanted.get(sheet) !== mine) return;
    sheet.layers.remove('tiles');
    sheet.layers.put('ground', {
      kind: 'ground',
      ground: content,
      ...(credit !== undefined && { credit }),
    });
  } catch (error) {
    if (wanted.get(sheet) !== mine) return;
    tell(error);
    sheet.note('content', { text: partOf(sheet.texts, 'map', english).unreadableBackground });
  }
}

/** Tells the reason of an error to the developer. */
export function tellBy(warn: Warn): (error: unknown) => void {
  return (error) => warn(error instanceof Error ? error.message : String(error), error);
}

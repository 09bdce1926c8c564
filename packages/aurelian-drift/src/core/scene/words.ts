import { counted, filled } from '../texts/part.js';
import type { MapItem } from '../texts/texts.js';
import type { Camera } from './camera.js';
import { PLAIN_WORDS, type MapWords } from './map-words.js';

/** Description of a layer: counted items that may have names, or the names of the fences around the user. */
export type Words =
  | { readonly item: MapItem; readonly count: number; readonly names?: readonly string[] }
  | { readonly inside: readonly string[] };

/** Maximum number of names; more items are counted. */
const REPORTED = 5;

/** Describes layers in words: items of the same kind are counted together. */
export function wordsOf(
  layers: readonly {
    readonly ready: { describe?(camera: Camera | undefined, words: MapWords): readonly Words[] };
  }[],
  camera?: Camera,
  words: MapWords = PLAIN_WORDS,
): string[] {
  const items = new Map<MapItem, { count: number; names: string[] }>();
  const texts: string[] = [];
  for (const each of layers.flatMap(({ ready }) => ready.describe?.(camera, words) ?? [])) {
    if ('inside' in each) {
      texts.push(filled(words.texts.inside, { names: each.inside.join(', ') }));
      continue;
    }
    const { item, count, names = [] } = each;
    const sum = items.get(item) ?? { count: 0, names: [] };
    items.set(item, { count: sum.count + count, names: [...sum.names, ...names] });
  }
  const listed = Array.from(items, ([item, { count, names }]) => {
    const reported = names.slice(0, REPORTED).join(', ');
    const rest = names.length > REPORTED ? ', …' : '';
    const text = counted(words.texts.items[item], count, words.language);
    return count === 0 ? [] : [`${text}${reported === '' ? '' : `: ${reported}${rest}`}`];
  });
  return [...texts, ...listed.flat()];
}

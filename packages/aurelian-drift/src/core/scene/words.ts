import type { Camera } from './camera.js';

/** Description of a layer: a text, or counted items that may have names. */
export type Words =
  | { readonly text: string }
  | {
      readonly one: string;
      readonly many: string;
      readonly count: number;
      readonly names?: readonly string[];
    };

/** Maximum number of names; more items are counted. */
const REPORTED = 5;

/** Describes layers in words: items of the same name are counted together. */
export function wordsOf(
  layers: readonly { readonly ready: { describe?(camera: Camera | undefined): readonly Words[] } }[],
  camera?: Camera,
): string[] {
  const counted = new Map<string, { one: string; many: string; count: number; names: string[] }>();
  const texts: string[] = [];
  for (const words of layers.flatMap(({ ready }) => ready.describe?.(camera) ?? [])) {
    if ('text' in words) {
      texts.push(words.text);
      continue;
    }
    const { one, many, count, names = [] } = words;
    const sum = counted.get(one) ?? { one, many, count: 0, names: [] };
    counted.set(one, { ...sum, count: sum.count + count, names: [...sum.names, ...names] });
  }
  const listed = Array.from(counted.values(), ({ one, many, count, names }) => {
    const reported = names.slice(0, REPORTED).join(', ');
    const rest = names.length > REPORTED ? ', …' : '';
    return count === 0
      ? []
      : [`${count} ${count === 1 ? one : many}${reported === '' ? '' : `: ${reported}${rest}`}`];
  });
  return [...texts, ...listed.flat()];
}

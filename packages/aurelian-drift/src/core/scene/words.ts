import type { Camera } from './camera.js';

/** What a layer shows, for whoever does not see it: a text, or things that are counted and may have names. */
export type Words =
  | { readonly text: string }
  | {
      readonly one: string;
      readonly many: string;
      readonly count: number;
      readonly names?: readonly string[];
    };

/** Names that are told one by one; more are counted. */
const REPORTED = 5;

/** What layers show, in words: things of the same name counted together. */
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

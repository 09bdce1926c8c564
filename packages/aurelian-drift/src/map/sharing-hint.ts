import { filled } from '../core/texts/part.js';
import type { MapTexts } from '../core/texts/texts.js';
import type { Notes } from './notes.js';

/** Milliseconds that the hint stays. */
const SHOWN = 2500;

/** Tells the user of a map inside a scrolling page how it is moved, for a moment. */
export function hintOn(notes: Notes, texts: () => MapTexts): (by: 'finger' | 'wheel') => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  return (by) => {
    const { twoFingers, wheelWithKey } = texts();
    const key = /mac|iphone|ipad/i.test(navigator.userAgent) ? '⌘' : 'Ctrl';
    notes.set('hint', { text: by === 'finger' ? twoFingers : filled(wheelWithKey, { key }) });
    clearTimeout(timer);
    timer = setTimeout(() => notes.set('hint', undefined), SHOWN);
  };
}

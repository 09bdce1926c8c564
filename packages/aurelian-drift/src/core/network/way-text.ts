import { Formatter } from '../fix/formatter.js';
import { ways } from '../texts/english.js';
import { filled, partOf } from '../texts/part.js';
import type { Texts, WayTexts } from '../texts/texts.js';
import type { NoWayError } from './way.js';
import { type WayStep } from './way.js';

/** How steps are written. */
export interface WayTextOptions {
  /** Texts of another language, which also sets how lengths are written. Default: English. */
  readonly texts?: Texts | undefined;
  /** Units of lengths. Default: metric. */
  readonly formatter?: Formatter;
}

/** A step in words: `Turn left onto Long Lane, 640 m`. */
export function stepText(step: WayStep, options: WayTextOptions = {}): string {
  const { own, format } = tools(options);
  const { turn, name, kind = '', metres } = step;
  const lane =
    name ?? (Object.hasOwn(own.kinds, kind) ? own.kinds[kind as keyof WayTexts['kinds']] : undefined);
  const { plain, onto } = own.turns[turn];
  const text = lane === undefined || turn === 'arrive' ? plain : filled(onto, { lane });
  return turn === 'arrive' ? text : filled(own.step, { text, length: format.length(metres) });
}

/** The text for the user where there is no way. */
export function noWayText({ kind, metres }: NoWayError, options: WayTextOptions = {}): string {
  const { own, format } = tools(options);
  return filled(kind === 'no-way' ? own.noWay : own.offNetwork, { length: format.length(metres) });
}

function tools({ texts, formatter }: WayTextOptions) {
  const locale = texts?.ways === undefined ? 'en-GB' : texts.language;
  return { own: partOf(texts, 'ways', ways), format: formatter ?? new Formatter({ locale }) };
}

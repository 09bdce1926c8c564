import { Formatter } from '../core/fix/formatter.js';
import { sharing } from '../core/texts/english.js';
import { filled, partOf } from '../core/texts/part.js';
import type { Texts } from '../core/texts/texts.js';

/** Terms of sharing for the user: who sees what, how exactly, for how long, and what happens afterwards. */
export interface SharingTerms {
  /** Recipients, as the user was told. */
  readonly recipients: readonly string[];
  /** Rounding of the places in metres; absent when they are exact. */
  readonly rounding?: number | undefined;
  /** Whether there are areas whose inside is not shared. */
  readonly veiled: boolean;
  /** Seconds of the trail that are shared with each place; 0 for none. */
  readonly trail: number;
  /** When sharing ends by itself, milliseconds since 1970 UTC; absent before it began, and without a limit. */
  readonly until?: number | undefined;
  /** Seconds after which it ends by itself. */
  readonly limit?: number | undefined;
  /**
   * `cleaned-up`: the app is notified when it is closed, and removes the place. `only-expiry`: it is not notified, and
   * only the times below protect the user.
   */
  readonly protection: 'cleaned-up' | 'only-expiry';
  /** Seconds after the last sign of life within which others see that the member vanished. */
  readonly vanishedAfter: number;
  /** Seconds for which the last place is retained after that. */
  readonly retention: number;
}

/**
 * The terms in sentences, to be shown before and while sharing.
 *
 * @param now milliseconds since 1970 UTC.
 * @param texts of another language, which also sets how numbers, lengths and durations are written. Default: English.
 */
export function termsText(terms: SharingTerms, now: number, texts?: Texts): string[] {
  const { recipients, rounding, veiled, trail, until, limit, protection, vanishedAfter, retention } = terms;
  const left = until === undefined ? limit : Math.max(0, (until - now) / 1000);
  const own = partOf(texts, 'sharing', sharing);
  const locale = texts?.sharing === undefined ? 'en-GB' : texts.language;
  const format = new Formatter({ locale });
  const list = new Intl.ListFormat(locale);
  return [
    filled(own.recipients, { recipients: list.format(recipients) }),
    rounding === undefined ? own.exact : filled(own.rounded, { length: format.length(rounding) }),
    ...(veiled ? [own.veiled] : []),
    trail === 0 ? own.noTrail : filled(own.trail, { duration: format.duration(trail) }),
    left === undefined
      ? own.noLimit
      : filled(until === undefined ? own.endsAfter : own.endsIn, { duration: format.duration(left) }),
    ...(protection === 'cleaned-up' ? [own.cleanedUp] : []),
    filled(own.vanished, {
      vanishedAfter: format.duration(vanishedAfter),
      retention: format.duration(retention),
    }),
  ];
}

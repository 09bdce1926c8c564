import { durationText, lengthText } from '../core/fix/words.js';

/** What sharing means to who shares: who learns what, how exactly, for how long, and what becomes of it. */
export interface SharingTerms {
  /** Who receives the places, as the user was told. */
  readonly recipients: readonly string[];
  /** Metres that places are rounded to; absent when they are exact. */
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
   * `cleaned-up`: the app is told when it is closed, and takes the place back. `only-expiry`: nobody tells, and only
   * the times below protect.
   */
  readonly protection: 'cleaned-up' | 'only-expiry';
  /** Seconds after the last sign of life in which others learn that we vanished. */
  readonly vanishedAfter: number;
  /** Seconds that the last place stays after that. */
  readonly retention: number;
}

/** The terms in sentences, to be shown before and while sharing. */
export function termsText(terms: SharingTerms, now: number): string[] {
  const { recipients, rounding, veiled, trail, until, limit, protection, vanishedAfter, retention } = terms;
  const left = until === undefined ? limit : Math.max(0, (until - now) / 1000);
  return [
    `Seen by ${LIST.format(recipients)}.`,
    rounding === undefined
      ? 'They see the exact place.'
      : `They see the place rounded to ${lengthText(rounding)}.`,
    ...(veiled ? ['Places in your private areas are not sent.'] : []),
    trail === 0
      ? 'They do not see where you were before.'
      : `They see the way of the last ${durationText(trail)}.`,
    left === undefined
      ? 'It goes on until you switch it off.'
      : `It ends by itself ${until === undefined ? 'after' : 'in'} ${durationText(left)}.`,
    ...(protection === 'cleaned-up' ? ['Closing this app takes your place back.'] : []),
    `If this device dies or loses its network, they are told within ${durationText(vanishedAfter)} that you vanished, and keep your last place for ${durationText(retention)}.`,
  ];
}

const LIST = new Intl.ListFormat('en-GB');

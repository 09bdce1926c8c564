import { anything, checkOptions, someText } from '../core/check/options.js';
import type { Fix } from '../core/fix/fix.js';
import { placeMessage, type PlaceMessageOptions } from '../core/fix/place-message.js';

/** What became of a place: shared by the user, put on the clipboard, or not sent: the user changed their mind. */
export type PlaceSent = 'shared' | 'copied' | 'cancelled';

/** Options of `sendPlace`. */
export interface SendPlaceOptions extends PlaceMessageOptions {
  /** Title, which some receivers show, such as the subject of a mail. Default: none. */
  readonly title?: string;
}

/**
 * Sends a place once: by the share sheet of the system (Web Share API, W3C), or, where there is none, onto the
 * clipboard. The message is that of `placeMessage`. Call it on a press: browsers refuse it otherwise.
 *
 * @throws {InputError} for a misspelt option.
 * @throws {Error} where the browser allows neither; show the text of `placeMessage` then, to be copied by hand.
 */
export async function sendPlace(fix: Fix, options: SendPlaceOptions = {}): Promise<PlaceSent> {
  checkOptions('sendPlace', options, {
    title: someText,
    address: someText,
    note: someText,
    format: anything,
  });
  const { title, ...rest } = options;
  const text = placeMessage(fix, rest);
  const shared = await share({ text, ...(title !== undefined && { title }) });
  if (shared !== undefined) return shared;
  try {
    await navigator.clipboard.writeText(text);
    return 'copied';
  } catch (cause) {
    throw new Error('this page can neither share a place nor put it on the clipboard', { cause });
  }
}

/** Shares by the system; `undefined` where it cannot. */
async function share(data: { text: string; title?: string }): Promise<PlaceSent | undefined> {
  const { share: shareSheet, canShare } = navigator as Partial<Navigator>;
  if (shareSheet === undefined || canShare?.call(navigator, data) === false) return undefined;
  try {
    await shareSheet.call(navigator, data);
    return 'shared';
  } catch (error) {
    return (error as { name?: unknown }).name === 'AbortError' ? 'cancelled' : undefined;
  }
}

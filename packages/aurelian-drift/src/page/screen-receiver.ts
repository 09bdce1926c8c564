import type { ReceiverOptions } from '../receiver/options.js';
import { Receiver } from '../receiver/receiver.js';
import { browserSource } from '../sources/browser.js';

/** Options of the receiver of a screen: those of `Receiver`. Default of `source`: the browser. */
export type UseReceiverOptions = Omit<ReceiverOptions, 'source'> & Partial<Pick<ReceiverOptions, 'source'>>;

/** Makes the receiver of a screen. @param options a function is called now. */
export function screenReceiver(options: UseReceiverOptions | (() => UseReceiverOptions)): Receiver {
  const { source = browserSource(), ...rest } = typeof options === 'function' ? options() : options;
  return new Receiver({ source, ...rest });
}

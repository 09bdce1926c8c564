import { checkOptions, numberFrom } from '../core/check/options.js';
import type { Life, LifeEvent } from '../receiver/life.js';

const SIGNALS = ['SIGINT', 'SIGTERM', 'SIGHUP'] as const;

export interface ProcessLifeOptions {
  /** Seconds that the process may go on after it was asked to end, 0 to 60. Default 3. */
  readonly grace?: number;
}

/**
 * The life of a Node process: `closed` when the user or the system asks it to end (SIGINT, SIGTERM, SIGHUP). It ends then by that signal, once
 * it has nothing left to do, after `grace` seconds, or when it is asked again. Where the app hears the signal too, its end is left to the app.
 *
 * @throws {InputError} for a misspelt option or a value out of range.
 */
export function processLife(options: ProcessLifeOptions = {}): Life {
  checkOptions('processLife', options, { grace: numberFrom(0, 60, 'seconds') });
  const { grace = 3 } = options;
  const listeners = new Set<(event: LifeEvent) => void>();
  let closing = false;
  const close = (signal: NodeJS.Signals) => {
    const end = () => {
      for (const each of SIGNALS) process.off(each, close);
      process.kill(process.pid, signal);
    };
    const isOurs = process.listenerCount(signal) === 1;
    if (closing) {
      if (isOurs) end();
      return;
    }
    closing = true;
    for (const listener of [...listeners]) listener('closed');
    if (!isOurs) return;
    setTimeout(end, grace * 1000).unref();
    process.once('beforeExit', end);
  };
  return {
    hidden: false,
    on(listener) {
      if (listeners.size === 0) for (const signal of SIGNALS) process.on(signal, close);
      listeners.add(listener);
      return () => {
        listeners.delete(listener);
        if (listeners.size === 0 && !closing) for (const signal of SIGNALS) process.off(signal, close);
      };
    },
  };
}

import type { Life, LifeEvent } from 'aurelian-drift';
import { checkOptions, consoleWarn, Emitter, numberFrom, warnOfListener } from 'aurelian-drift/internal';

const SIGNALS = ['SIGINT', 'SIGTERM', 'SIGHUP'] as const;
/** Signal listeners of all lives, to tell them from those of the app. */
const HEARING = new Set<NodeJS.SignalsListener>();

/** Options of `processLife`. */
export interface ProcessLifeOptions {
  /** Maximum seconds for which the process continues after it was asked to end, 0 to 60. Default 3. */
  readonly grace?: number;
}

/**
 * Life cycle of a Node process: `closed` when the user or the system asks it to end (SIGINT, SIGTERM, SIGHUP). The
 * process then ends by this signal when nothing is left to do, after `grace` seconds, or when it is asked again. Where
 * the app also listens to the signal, the app ends the process.
 *
 * @throws {InputError} for a misspelt option or a value out of range.
 */
export function processLife(options: ProcessLifeOptions = {}): Life {
  checkOptions('processLife', options, { grace: numberFrom(0, 60, 'seconds') });
  const { grace = 3 } = options;
  const events = new Emitter<LifeEvent>(warnOfListener('a life', consoleWarn));
  let closing = false;
  const receive: NodeJS.SignalsListener = (signal) => {
    const isOurs = process.listeners(signal).every((each) => HEARING.has(each));
    if (closing) {
      if (isOurs) end(signal);
      return;
    }
    closing = true;
    events.emit({ kind: 'closed' });
    if (!isOurs) return;
    setTimeout(end, grace * 1000, signal).unref();
    process.once('beforeExit', () => end(signal));
  };
  return {
    hidden: false,
    onEvent(listener) {
      if (events.size === 0) toggle('on', receive);
      const remove = events.onEvent(listener);
      return () => {
        remove();
        if (events.size === 0 && !closing) toggle('off', receive);
      };
    },
  };
}

function toggle(how: 'on' | 'off', receive: NodeJS.SignalsListener): void {
  for (const signal of SIGNALS) process[how](signal, receive);
  if (how === 'on') HEARING.add(receive);
  else HEARING.delete(receive);
}

/** By the signal, as without a listener. */
function end(signal: NodeJS.Signals): void {
  for (const receive of [...HEARING]) toggle('off', receive);
  process.kill(process.pid, signal);
}

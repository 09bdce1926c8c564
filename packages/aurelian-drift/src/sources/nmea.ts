import { checkOptions, anything, callable, someText } from '../core/check/options.js';
import { NoFixError } from '../core/fix/no-fix-error.js';
import { NmeaDecoder } from '../core/formats/nmea/nmea-decoder.js';
import type { Note } from '../core/formats/track-sink.js';
import { Emitter } from '../live/emitter.js';
import { warnOfListener } from '../live/listener.js';
import { consoleWarn, isolatedWarn, type Warn } from '../live/warn.js';
import { OPEN_ACCESS } from '../receiver/access.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import type { Source, SourceEvent, SourceSink } from '../receiver/source.js';

/** Options of `nmeaSource`. */
export interface NmeaSourceOptions {
  /** Name for messages. Default `the wired receiver`. */
  readonly name?: string;
  /** Clock of the retries. Default: the clock of the platform. */
  readonly clock?: Clock;
  /** Receives messages for the developer, such as a failure of the feed at its end. Default: the console. */
  readonly warn?: Warn;
}

/** Maximum seconds between sentences of the same time. */
const SAME_TIME = 0.25;

/**
 * A receiver with NMEA 0183 output, by a cable, a serial port or a network: anything that gives its text or bytes as
 * they arrive. `open` is called for each watch; the iteration ends when nobody follows any more. Each line that is left
 * out is reported as an event of kind `note`.
 *
 * ```js
 * const port = await navigator.serial.requestPort();
 * await port.open({ baudRate: 4800 });
 * const receiver = new Receiver({ source: nmeaSource(() => port.readable), purpose: 'Follow the boat.' });
 * ```
 */
export function nmeaSource(
  open: () => AsyncIterable<string | Uint8Array>,
  options: NmeaSourceOptions = {},
): Source {
  checkOptions('nmeaSource', options, { name: someText, clock: anything, warn: callable });
  const { name = 'the wired receiver', clock = systemClock } = options;
  const warn = isolatedWarn(options.warn ?? consoleWarn);
  const events = new Emitter<SourceEvent>(warnOfListener(name, warn));
  return {
    name,
    supported: true,
    keepsTimes: true, // the feed may be a log
    readAccess: () => Promise.resolve(OPEN_ACCESS),
    onEvent: (listener) => events.onEvent(listener),
    prompt: () => Promise.resolve(),
    watch(_demand, sink) {
      const iterator = open()[Symbol.asyncIterator]();
      const state = { open: true, cancel: () => {} };
      void listen(iterator, sink, state, clock, (note) => events.emit({ kind: 'note', ...note }));
      return () => {
        state.open = false;
        state.cancel();
        const report = (error: unknown) =>
          warn(`${name} failed as its feed was ended: ${String(error)}`, error);
        void Promise.resolve(iterator.return?.()).catch(report);
      };
    },
  };
}

async function listen(
  iterator: AsyncIterator<string | Uint8Array>,
  sink: SourceSink,
  state: { readonly open: boolean; cancel: () => void },
  clock: Clock,
  onNote: (note: Note) => void,
): Promise<void> {
  const decoder = new NmeaDecoder({
    fix: (fix) => sink.fix(fix),
    gap: () => sink.gap(),
    undated: (_parts, line) => onNote({ line, text: 'no sentence has the date (RMC or ZDA)' }),
    note: onNote,
  });
  // Sentences are ASCII; an invalid byte must not stop the reading.
  const bytes = new TextDecoder();
  try {
    for (;;) {
      const next = await iterator.next();
      state.cancel();
      if (!state.open) return;
      if (next.done === true) break;
      const { value } = next;
      decoder.write(typeof value === 'string' ? value : bytes.decode(value, { stream: true }));
      state.cancel = clock.after(SAME_TIME, () => {
        if (state.open) decoder.flush();
      });
    }
    decoder.end();
    sink.end();
  } catch (error) {
    state.cancel();
    if (state.open) sink.error(new NoFixError('unknown', { cause: error }));
  }
}

import { consoleWarn, isolatedWarn, type Warn } from '../live/warn.js';

/** The part of a `MessagePort` that the bridge needs. */
export interface BridgePort {
  postMessage(message: unknown): void;
  addEventListener(kind: 'message' | 'close', listener: (event: { data: unknown }) => void): void;
  start?(): void;
  /** For closing the source; a port without it keeps a listener without effect. */
  removeEventListener?(kind: 'message' | 'close', listener: (event: { data: unknown }) => void): void;
}

/** Characters of a text that a port takes at most. */
const LONGEST = 4_000_000;

/** A port that carries texts, as that of the Android web view does: each message is JSON. */
export function textPort(port: BridgePort): BridgePort {
  const wrapped = new Map<unknown, (event: { data: unknown }) => void>();
  return {
    postMessage: (message) => port.postMessage(JSON.stringify(message)),
    addEventListener(kind, listener) {
      const own = ({ data }: { data: unknown }) =>
        listener({ data: kind === 'message' ? parsed(data) : data });
      wrapped.set(listener, own);
      port.addEventListener(kind, own);
    },
    removeEventListener(kind, listener) {
      const own = wrapped.get(listener);
      wrapped.delete(listener);
      if (own !== undefined) port.removeEventListener?.(kind, own);
    },
    start: () => port.start?.(),
  };
}

/** A port of two functions. */
export interface FunctionPort extends BridgePort {
  /** Called by the shell with each of its messages, as text or as an object. */
  readonly receive: (message: unknown) => void;
}

/**
 * A port of two functions, for a web view that has a handler for messages of the page and evaluates calls in the page,
 * as on iOS, and for engines without a DOM.
 *
 * @param post takes each message of the page, as JSON text.
 */
export function functionPort(post: (text: string) => void): FunctionPort {
  const listeners = new Set<(event: { data: unknown }) => void>();
  return {
    postMessage: (message) => post(JSON.stringify(message)),
    addEventListener(kind, listener) {
      if (kind === 'message') listeners.add(listener);
    },
    removeEventListener: (_kind, listener) => void listeners.delete(listener),
    receive(message) {
      const data = parsed(message);
      for (const listener of [...listeners]) listener({ data });
    },
  };
}

/** The value of a JSON text; anything else, and a text that is none or too long, as it is: the bridge refuses it. */
function parsed(data: unknown): unknown {
  if (typeof data !== 'string' || data.length > LONGEST) return data;
  try {
    return JSON.parse(data) as unknown;
  } catch {
    return data;
  }
}

/** Options of `onShellPort`. */
export interface ShellPortOptions {
  /** The text that comes with the port. Default `aurelian-drift`. */
  readonly name?: string;
  /** Receives messages for the developer, such as refused ports. Default: the console. */
  readonly warn?: Warn;
}

/**
 * Waits for the port that the native shell around the page hands over in a message event, as the Android web view does,
 * and for each later one of a shell that was restarted. A frame, an opener or any other window cannot pose as the
 * shell: their messages have a source and an origin, those of the shell have neither. In a frame nothing is taken at all.
 *
 * @param take is given each port: `(port) => source.use(port)` for a source that is there.
 * @returns the function that ends the waiting.
 */
export function onShellPort(take: (port: BridgePort) => void, options: ShellPortOptions = {}): () => void {
  const { name = 'aurelian-drift' } = options;
  const warn = isolatedWarn(options.warn ?? consoleWarn);
  const receive = ({ data, source, origin, ports }: MessageEvent) => {
    if (data !== name) return;
    // The source of a window that is gone by now is null as well; its origin stays.
    if (source !== null || origin !== '' || window.top !== window) {
      const from = origin === '' || origin === 'null' ? 'a frame of no origin' : origin;
      warn(`${from} posed as the shell; only the app around the page may hand over a port`);
      return;
    }
    const [port] = ports;
    if (port === undefined || ports.length > 1)
      warn(`the shell handed over ${ports.length} ports instead of one`);
    else take(port);
  };
  addEventListener('message', receive);
  return () => removeEventListener('message', receive);
}

import type { ListenerFault } from './listeners.js';
import { consoleWarn } from './warn.js';

/**
 * A value that changes, and that a view can bind to. `get`, `subscribe` and `listen` are what the stores of most
 * frameworks are made of, so it binds to them directly.
 */
export interface LiveValue<T> {
  /** The value now. */
  get(): T;
  /** Calls the listener at once and after each change. Returns the function that unsubscribes. */
  subscribe(listener: (value: T) => void): () => void;
  /** Calls the listener after each change. Returns the function that unsubscribes. */
  listen(listener: (value: T) => void): () => void;
}

/** A live value in the hands of its owner. */
export interface OwnedValue<T> extends LiveValue<T> {
  /** Sets the value and tells the listeners; setting the same value (`Object.is`) changes nothing. */
  set(value: T): void;
  /** Whether anybody listens. */
  readonly observed: boolean;
}

interface Subscriber<T> {
  readonly listener: (value: T) => void;
  /** The number of the change that it was told last. */
  told: number;
  /** Whether it threw already: it is reported once. */
  reported: boolean;
}

/**
 * Makes a live value.
 *
 * Listeners are isolated: what one throws goes to `report`, once a listener, and the others are told all the same; nothing
 * reaches whoever set the value. When a listener sets the value again, each listener is told the newest value once,
 * and those of before it are passed over.
 *
 * @param report default: a warning in the console.
 */
export function liveValue<T>(initial: T, report: ListenerFault = reportToConsole): OwnedValue<T> {
  let value = initial;
  let changes = 0;
  let telling = false;
  const subscribers = new Set<Subscriber<T>>();

  const call = (subscriber: Subscriber<T>) => {
    subscriber.told = changes;
    try {
      subscriber.listener(value);
    } catch (error) {
      if (subscriber.reported) return;
      subscriber.reported = true;
      report(error);
    }
  };
  const add = (listener: (value: T) => void): Subscriber<T> => {
    const subscriber = { listener, told: changes, reported: false };
    subscribers.add(subscriber);
    return subscriber;
  };

  return {
    get: () => value,
    set(next) {
      if (Object.is(value, next)) return;
      value = next;
      changes++;
      if (telling) return; // the call that is under way goes on with the newest value
      telling = true;
      for (let at = -1; at !== changes;) {
        at = changes;
        for (const subscriber of [...subscribers])
          if (subscriber.told < changes && subscribers.has(subscriber)) call(subscriber);
      }
      telling = false;
    },
    subscribe(listener) {
      const subscriber = add(listener);
      call(subscriber);
      return () => void subscribers.delete(subscriber);
    },
    listen(listener) {
      const subscriber = add(listener);
      return () => void subscribers.delete(subscriber);
    },
    get observed() {
      return subscribers.size > 0;
    },
  };
}

function reportToConsole(error: unknown): void {
  consoleWarn(`a listener of a live value threw: ${String(error)}`, error);
}

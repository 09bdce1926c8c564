import { isolated, type OnListenerError } from './listener.js';
import { atTurnsEnd } from './turn.js';
import { consoleWarn } from './warn.js';

/**
 * A value that changes and that a view can bind to. Stores of most frameworks consist of `get`, `subscribe` and
 * `listen`, so it binds to them directly. Each is a plain function that may be passed on by itself.
 */
export interface LiveValue<T> {
  /** The current value. */
  readonly get: () => T;
  /** The value that it began with: what a server has rendered, for views that take over its page. */
  readonly initial: T;
  /** Calls the listener at once and after each change. Returns the function that unsubscribes. */
  readonly subscribe: (listener: (value: T) => void) => () => void;
  /** Calls the listener after each change. Returns the function that unsubscribes. */
  readonly listen: (listener: (value: T) => void) => () => void;
}

/** A live value with the setter, for its owner. */
export interface OwnedValue<T> extends LiveValue<T> {
  /** Sets the value and notifies the listeners. Setting the same value (`Object.is`) does nothing. */
  set(value: T): void;
  /** Whether there are listeners. */
  readonly observed: boolean;
}

interface Subscriber<T> {
  readonly listener: (value: T) => void;
  /** Number of the last change that was delivered; infinite after unsubscribing. */
  reported: number;
}

/**
 * Makes a live value.
 *
 * Listeners are isolated: the first error of a listener goes to `report`, the other listeners are called, and the
 * setter never throws. Listeners are called when the whole change is complete. After several changes until then, each
 * listener is called once with the newest value.
 *
 * @param report default: a warning in the console.
 */
export function liveValue<T>(initial: T, report: OnListenerError = reportToConsole): OwnedValue<T> {
  let value = initial;
  let changes = 0;
  let notifying = false;
  /** Replaced by a new list on each change, so that it may change during iteration. */
  let subscribers: readonly Subscriber<T>[] = [];

  const notify = () => {
    notifying = false;
    for (const subscriber of subscribers) if (subscriber.reported < changes) call(subscriber);
  };
  const call = (subscriber: Subscriber<T>) => {
    subscriber.reported = changes;
    subscriber.listener(value);
  };
  const add = (listener: (value: T) => void): Subscriber<T> => {
    const subscriber = { listener: isolated(listener, report), reported: changes };
    subscribers = [...subscribers, subscriber];
    return subscriber;
  };
  const remove = (subscriber: Subscriber<T>) => {
    subscriber.reported = Infinity;
    subscribers = subscribers.filter((each) => each !== subscriber);
  };

  return {
    get: () => value,
    initial,
    set(next) {
      if (Object.is(value, next)) return;
      value = next;
      changes++;
      if (notifying || subscribers.length === 0) return;
      notifying = true;
      atTurnsEnd(notify);
    },
    subscribe(listener) {
      const subscriber = add(listener);
      call(subscriber);
      return () => remove(subscriber);
    },
    listen(listener) {
      const subscriber = add(listener);
      return () => remove(subscriber);
    },
    get observed() {
      return subscribers.length > 0;
    },
  };
}

function reportToConsole(error: unknown): void {
  consoleWarn(`a listener of a live value threw: ${String(error)}`, error);
}

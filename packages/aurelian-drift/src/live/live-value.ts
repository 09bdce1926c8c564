import { isolated, type OnListenerError } from './listener.js';
import { atTurnsEnd } from './turn.js';
import { consoleWarn } from './warn.js';

/**
 * A value that changes, and that a view can bind to. `get`, `subscribe` and `listen` are what the stores of most
 * frameworks are made of, so it binds to them directly. Each is a function of its own, and may be passed on without the
 * value.
 */
export interface LiveValue<T> {
  /** The value now. */
  readonly get: () => T;
  /** Calls the listener at once and after each change. Returns the function that unsubscribes. */
  readonly subscribe: (listener: (value: T) => void) => () => void;
  /** Calls the listener after each change. Returns the function that unsubscribes. */
  readonly listen: (listener: (value: T) => void) => () => void;
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
  /** The number of the change that it was told last; infinite once it has unsubscribed. */
  reported: number;
}

/**
 * Makes a live value.
 *
 * Listeners are isolated: what one throws goes to `report`, once a listener, and the others are told all the same;
 * nothing reaches whoever set the value. They are told when the change that the value is a part of is complete. Of
 * several changes until then, each listener is told the newest value once.
 *
 * @param report default: a warning in the console.
 */
export function liveValue<T>(initial: T, report: OnListenerError = reportToConsole): OwnedValue<T> {
  let value = initial;
  let changes = 0;
  let notifying = false;
  /** Replaced by another list with each change of it, so that it may change while it is gone through. */
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

import type { Warn } from './warn.js';

/** Takes an error of a listener. Must not throw. */
export type OnListenerError = (error: unknown) => void;

/** Reports errors of listeners as warnings. @param owner name of the object with the listeners, for the message. */
export function warnOfListener(owner: string, warn: Warn): OnListenerError {
  return (error) => warn(`a listener of ${owner} threw: ${String(error)}`, error);
}

/**
 * Wraps a listener so that it is safe to call: its first error, thrown or by a rejected promise, is reported; no error
 * leaves it.
 */
export function isolated<T>(listener: (value: T) => unknown, report: OnListenerError): (value: T) => void {
  let reported = false;
  const problem = (error: unknown) => {
    if (reported) return;
    reported = true;
    report(error);
  };
  return (value) => {
    try {
      const result = listener(value);
      if (typeof result === 'object') void Promise.resolve(result).then(undefined, problem);
    } catch (error) {
      problem(error);
    }
  };
}

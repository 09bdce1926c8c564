import type { Warn } from './warn.js';

/** Takes what a listener threw. Must not throw itself. */
export type OnListenerError = (error: unknown) => void;

/** Reports what a listener throws as a warning. @param owner the object that was listened to, for the message. */
export function warnOfListener(owner: string, warn: Warn): OnListenerError {
  return (error) => warn(`a listener of ${owner} threw: ${String(error)}`, error);
}

/**
 * The same listener, made safe to call: what it throws, or what the promise that it returns is rejected with, is
 * reported the first time, and goes no further.
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

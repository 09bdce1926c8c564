/** Choice of the user after the app's own explanation. */
export type Explanation = 'go-on' | 'not-now';

/**
 * Explains the purpose before the system asks, and waits for the choice of the user. With `not-now` the system does not
 * ask.
 *
 * @param purpose the purpose of the receiver.
 */
export type Explain = (purpose: string) => Promise<Explanation>;

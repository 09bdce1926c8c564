/** What the user chose when the app explained itself. */
export type Explanation = 'go-on' | 'not-now';

/**
 * Says why, before the system asks, and waits for the user's choice. `not-now` leaves the system's prompt unused.
 *
 * @param purpose the receiver's.
 */
export type Explain = (purpose: string) => Promise<Explanation>;

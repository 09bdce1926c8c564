/** An object was used after it had ended, or ended while it was waited on. */
export class ClosedError extends Error {
  override readonly name = 'ClosedError';

  /** @param what the object, in words: "the receiver". */
  constructor(what: string) {
    super(`${what} is closed`);
  }
}

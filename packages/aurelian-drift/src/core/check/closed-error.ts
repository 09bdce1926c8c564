/** Thrown when an object is used after it was closed, or closed while a call waits for it. */
export class ClosedError extends Error {
  override readonly name = 'ClosedError';

  /** @param what name of the object in a sentence, such as "the receiver". */
  constructor(what: string) {
    super(`${what} is closed`);
  }
}

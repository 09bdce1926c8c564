import type { Position } from '../geodesy/position.js';

/** Kinds of faults that a network may have. */
export type NetworkFaultKind = 'short' | 'joined' | 'gap' | 'duplicate' | 'apart';

/** A likely mistake in the lines of a network. The network works; the way over it may not be what was meant. */
export interface NetworkFault {
  /**
   * `short`: a line without length, left out. `joined`: an end that nearly touches another line, and was joined to it.
   * `gap`: an end that comes near to another line and was not joined. `duplicate`: the same line twice. `apart`: lines
   * without a connection to the largest part.
   */
  readonly kind: NetworkFaultKind;
  /** The line: its id or name, or its number. */
  readonly lane: string;
  /** The other line of `joined`, `gap` and `duplicate`. */
  readonly other?: string;
  readonly at: Position;
  /** Metres: of the gap, or of the lines that are apart. */
  readonly metres?: number;
}

/** A fault in words. */
export function faultText({ kind, lane, other, at, metres = 0 }: NetworkFault): string {
  const near = `at ${at.lat.toFixed(5)}, ${at.lon.toFixed(5)}`;
  const length = metres < 10 ? metres.toFixed(2) : String(Math.round(metres));
  switch (kind) {
    case 'short':
      return `${lane} has no two different points and is left out, ${near}`;
    case 'joined':
      return `${lane} ended ${length} m from ${other} and was joined to it, ${near}`;
    case 'gap':
      return `${lane} ends ${length} m from ${other} without a connection, ${near}`;
    case 'duplicate':
      return `${lane} lies on ${other}: the same line twice, ${near}`;
    case 'apart':
      return `${lane} and the lines that it meets, ${length} m in all, have no connection to the largest part, ${near}`;
  }
}

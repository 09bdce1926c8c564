/** Nesting depth of the changes in progress, and the notifications that wait for the outermost one. */
let depth = 0;
const waiting: (() => void)[] = [];

/**
 * Runs a change as one turn: listeners of all values and events in it are called when it is complete, in the order of
 * the changes. Changes made by a listener are delivered after those that wait already, so no listener runs inside
 * another or sees half of a change.
 */
export function inTurn<T>(change: () => T): T {
  depth++;
  try {
    return change();
  } finally {
    if (depth === 1) for (const report of waiting) report(); // the loop includes entries that are added while it runs
    depth--;
    if (depth === 0) waiting.length = 0;
  }
}

/** Runs a notification at the end of the turn, or at once outside of a turn. @param tell must not throw. */
export function atTurnsEnd(report: () => void): void {
  if (depth > 0) waiting.push(report);
  else inTurn(() => void waiting.push(report));
}

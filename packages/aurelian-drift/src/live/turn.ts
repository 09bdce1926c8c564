/** How many changes are under way, one within the other, and what is told when the outermost is complete. */
let depth = 0;
const waiting: (() => void)[] = [];

/**
 * Makes a change as one turn: those who listen to the values and events that it touches are told when it is complete,
 * in the order of the changes. What a listener changes then is told after what is waiting already, so no listener runs
 * inside another or sees half of a change.
 */
export function inTurn<T>(change: () => T): T {
  depth++;
  try {
    return change();
  } finally {
    if (depth === 1) for (const report of waiting) report(); // an array tells what is added meanwhile too
    depth--;
    if (depth === 0) waiting.length = 0;
  }
}

/** Tells at the end of the turn, at once outside of any. @param tell must not throw. */
export function atTurnsEnd(report: () => void): void {
  if (depth > 0) waiting.push(report);
  else inTurn(() => void waiting.push(report));
}

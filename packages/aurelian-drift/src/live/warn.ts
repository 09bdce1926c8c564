/** Takes a message for the developer, and the error behind it if there is one. */
export type Warn = (text: string, cause?: unknown) => void;

/** Default for messages to the developer: the console, or nothing in an engine without one. */
export const consoleWarn: Warn = (text, cause) => {
  (globalThis as Partial<typeof globalThis>).console?.warn(text, ...(cause === undefined ? [] : [cause]));
};

/** Wraps a warning function so that it is safe to call: if it throws, the warning and the error go to the console. */
export function isolatedWarn(warn: Warn): Warn {
  return (text, cause) => {
    try {
      warn(text, cause);
    } catch (error) {
      consoleWarn(text, cause);
      consoleWarn(`the function given as \`warn\` threw: ${String(error)}`, error);
    }
  };
}

/** Takes what a developer should know, and what was thrown, if that is behind it. */
export type Warn = (text: string, cause?: unknown) => void;

/** Where warnings for the developer go unless the app says otherwise; nowhere in an engine that has no console. */
export const consoleWarn: Warn = (text, cause) => {
  (globalThis as Partial<typeof globalThis>).console?.warn(text, ...(cause === undefined ? [] : [cause]));
};

/**
 * The same warning function, made safe to call from anywhere: if the app's function throws, the warning and the error
 * go to the console, and the caller goes on.
 */
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

/** Takes what a developer should know, and what was thrown, if that is behind it. */
export type Warn = (text: string, cause?: unknown) => void;

/** Where warnings for the developer go unless the app says otherwise. */
export const consoleWarn: Warn = (text, cause) => {
  // eslint-disable-next-line no-console -- the one place that speaks to the developer
  console.warn(...(cause === undefined ? [text] : [text, cause]));
};

/** Where warnings for the developer go unless the app says otherwise. */
export function consoleWarn(text: string): void {
  // eslint-disable-next-line no-console -- the one place that speaks to the developer
  console.warn(text);
}

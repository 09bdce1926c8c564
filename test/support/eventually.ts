/**
 * Retries until it does not throw, for this many seconds at most; then throws the last error. The limit is for
 * conditions that never hold: it is far longer than a slow machine needs.
 */
export async function eventually<T>(check: () => T | Promise<T>, seconds = 120): Promise<T> {
  const end = Date.now() + seconds * 1000;
  for (;;) {
    try {
      return await check();
    } catch (error) {
      if (Date.now() > end) throw error;
    }
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
}

/**
 * Tries again until it does not throw, for so many seconds at the most; then throws what it threw last. The limit is
 * for what never comes: it is far longer than a slow machine that does much beside takes.
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

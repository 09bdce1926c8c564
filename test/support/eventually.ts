/** Tries again until it does not throw, for so many seconds at the most; then throws what it threw last. */
export async function eventually<T>(check: () => T | Promise<T>, seconds = 20): Promise<T> {
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

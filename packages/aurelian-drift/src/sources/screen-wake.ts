/**
 * Keeps the screen on (Screen Wake Lock, W3C) until it is released. The platform releases the lock when the page is
 * hidden; it is requested again when the page is visible. `undefined` where the browser lacks it or refuses.
 */
export async function holdScreenOn(): Promise<(() => void) | undefined> {
  let sentinel = await request();
  if (sentinel === undefined) return undefined;
  let over = false;
  const shown = () => {
    if (document.visibilityState !== 'visible') return;
    void request().then((found) => {
      if (found === undefined) return;
      // A lock that arrives after the end, or beside another, is released.
      void (over ? found : sentinel)?.release();
      if (!over) sentinel = found;
    });
  };
  document.addEventListener('visibilitychange', shown);
  return () => {
    over = true;
    document.removeEventListener('visibilitychange', shown);
    void sentinel?.release();
  };
}

async function request(): Promise<WakeLockSentinel | undefined> {
  try {
    return await (navigator as Partial<Navigator>).wakeLock?.request('screen');
  } catch {
    return undefined; // low battery, or the page is hidden already
  }
}

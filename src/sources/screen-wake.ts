/**
 * Holds the screen on (Screen Wake Lock, W3C) until it is let go. The platform lets go by itself when the page is
 * hidden; it is held again when the page is shown. `undefined` where the browser has no such thing or refuses.
 */
export async function holdScreenOn(): Promise<(() => void) | undefined> {
  let sentinel = await request();
  if (sentinel === undefined) return undefined;
  const shown = () => {
    if (document.visibilityState !== 'visible') return;
    void request().then((found) => (sentinel = found ?? sentinel));
  };
  document.addEventListener('visibilitychange', shown);
  return () => {
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

/** Resolves when the user or the system asks the process to end. */
export function asked(): Promise<void> {
  return new Promise((done) => {
    for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.once(signal, () => done());
  });
}

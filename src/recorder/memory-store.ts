import { Trail } from '../core/trail/trail.js';
import { trailEntry, type TrailStore } from './trail-store.js';

/** Trails kept for as long as the program runs. */
export function memoryStore(): TrailStore {
  const trails = new Map<string, { trail: Trail; finished: boolean }>();
  let count = 0;
  return {
    begin(labels) {
      const id = String(++count);
      const kept = { trail: new Trail(labels), finished: false };
      trails.set(id, kept);
      return Promise.resolve({
        id,
        append(fixes) {
          for (const fix of fixes) kept.trail.append(fix);
          return Promise.resolve();
        },
        breakSegment() {
          kept.trail.breakSegment();
          return Promise.resolve();
        },
        finish() {
          kept.finished = true;
          return Promise.resolve();
        },
      });
    },
    list() {
      const entries = [...trails].map(([id, { trail, finished }]) => trailEntry(id, trail, finished));
      return Promise.resolve(entries.toSorted((a, b) => (b.start ?? 0) - (a.start ?? 0)));
    },
    read: (id) => Promise.resolve(trails.get(id)?.trail),
    remove(id) {
      trails.delete(id);
      return Promise.resolve();
    },
  };
}

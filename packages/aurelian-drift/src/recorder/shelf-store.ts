import { ClosedError } from '../core/check/closed-error.js';
import { InputError } from '../core/check/input-error.js';
import { jsonText } from '../core/check/json.js';
import { textOfUtf8, utf8Of } from '../core/check/utf8.js';
import type { Fix } from '../core/fix/fix.js';
import { decodeRecord, encodeRecord, type FixRecord } from '../core/trail/fix-record.js';
import { RunningSummary, runningSummaryOf } from '../core/trail/summary.js';
import { FixIntake } from '../core/trail/fix-intake.js';
import { isOvertaken } from '../core/trail/take-fix.js';
import { Trail, type TrailLabels } from '../core/trail/trail.js';
import { throwIfAborted, type AbortSignalLike } from '../live/abort-signal.js';
import { closedByAwaitUsing } from '../live/dispose.js';
import { Lifetime } from '../live/lifetime.js';
import { consoleWarn, type Warn } from '../live/warn.js';
import { headOfText, headText, isHeadOfOtherVersion } from './head-layout.js';
import type { Shelf, ShelfRecord, TrailHead } from './shelf.js';
import { TrailInUseError, type TrailEntry, type TrailStore, type TrailWriter } from './trail-store.js';

/** A store of trails over a shelf, with the same rules on every platform. */
export function shelfStore(
  shelf: Shelf,
  {
    warn = consoleWarn,
    signal,
  }: { readonly warn?: Warn; readonly signal?: AbortSignalLike | undefined } = {},
): TrailStore {
  const lifetime = new Lifetime((error) => warn(`a store threw as it was closed: ${String(error)}`, error));
  lifetime.add(() => shelf.close()); // last, when there is no writer any more
  /** The shelf, while the store is open. */
  const open = (): Shelf => {
    throwIfAborted(lifetime);
    return shelf;
  };
  const noted = new Set<string>();
  /** One warning for each problem. */
  const diagnostic = (text: string) => {
    if (noted.has(text)) return;
    noted.add(text);
    warn(text);
  };

  const headOf = async (id: string, found: unknown): Promise<TrailHead | undefined> => {
    if (found === undefined) return undefined;
    try {
      return headOfText(found);
    } catch (error) {
      if (!(error instanceof InputError)) throw error;
      // Data of another version is intact, and stays as it is.
      if (isHeadOfOtherVersion(found))
        throw new InputError(
          'bad-value',
          `the trail "${id}" cannot be read here: ${error.reason}`,
          {},
          error.remedy,
        );
      return rebuilt(id);
    }
  };

  /** As `headOf`, for a list: a trail with an unreadable head is reported and hides no other. */
  const listed = (id: string, found: unknown): Promise<TrailHead | undefined> =>
    headOf(id, found).catch((error: unknown) => {
      diagnostic(
        `the trail "${id}" is left out of the list: ${error instanceof InputError ? error.message : String(error)}`,
      );
      return undefined;
    });

  /** Restores a damaged head from the records of its trail. */
  const rebuilt = async (id: string): Promise<TrailHead | undefined> => {
    const { trail, next } = await load(id, {});
    if (trail.length === 0) {
      diagnostic(`the trail "${id}" is damaged, and no part of it can be read`);
      return undefined;
    }
    diagnostic(`what was kept about the trail "${id}" is damaged; its ${trail.length} fixes are there`);
    const head = { ...headOver(id, trail, next), finished: true };
    await open().write(id, headText(head), []);
    return head;
  };

  /** The trail of the readable records; the others are set aside, with one warning, and leave a gap. */
  const load = async (
    id: string,
    labels: TrailLabels,
  ): Promise<{ trail: Trail; notes: unknown[]; next: number }> => {
    const trail = new Trail(labels);
    const intake = new FixIntake(trail);
    const notes: unknown[] = [];
    const damaged: number[] = [];
    let next = 0;
    for (const { number, bytes } of await open().records(id)) {
      if (number > next) trail.breakSegment(); // some are missing
      next = number + 1;
      const record = decoded(bytes);
      if (record === undefined) damaged.push(number);
      if (record?.kind === 'note') notes.push(JSON.parse(textOfUtf8(record.text)));
      else if (record?.kind === 'fixes') for (const fix of record.fixes) intake.take(fix);
      else trail.breakSegment();
    }
    if (damaged.length > 0) {
      diagnostic(
        `${damaged.length} records of the trail "${labels.name ?? id}" are damaged and were set aside; ` +
          `the rest is there`,
      );
      await open().setAside(id, damaged);
    }
    return { trail: intake.finish(), notes, next };
  };

  /** The right to write a trail, which ends with the store. */
  const claim = async (id: string): Promise<() => void> => {
    const release = await open().claim(id);
    if (release === undefined) throw new TrailInUseError(id);
    const forget = lifetime.add(release);
    throwIfAborted(lifetime); // it was released at once
    return () => {
      forget();
      release();
    };
  };

  const existing = async (id: string): Promise<TrailHead> => {
    const head = await headOf(id, await open().head(id));
    if (head === undefined) throw new InputError('bad-value', `there is no trail "${id}" in this store`);
    return head;
  };

  const store: TrailStore = {
    async begin(labels) {
      const id = newId();
      const release = await claim(id);
      try {
        const head = headOver(id, new Trail(labels), 0);
        await open().write(id, headText(head), []);
        return writerOf(open, head, new RunningSummary(), release, load);
      } catch (error) {
        release();
        throw error;
      }
    },
    async resume(id) {
      const release = await claim(id);
      try {
        const head = await existing(id);
        if (head.finished) throw new InputError('bad-value', `the trail "${head.name ?? id}" is finished`);
        const { trail, next } = await load(id, head);
        // A new segment begins.
        trail.breakSegment();
        const newest = headOver(id, trail, Math.max(next, head.records));
        const writer = writerOf(open, newest, runningSummaryOf(trail), release, load);
        await writer.breakSegment();
        return { writer, trail };
      } catch (error) {
        release();
        throw error;
      }
    },
    async list() {
      const heads = await Promise.all((await open().heads()).map(({ id, head }) => listed(id, head)));
      return heads
        .flatMap((head) => (head === undefined ? [] : [entryOf(head)]))
        .toSorted((a, b) => (b.start ?? 0) - (a.start ?? 0));
    },
    async read(id) {
      const head = await headOf(id, await open().head(id));
      return head === undefined ? undefined : (await load(id, head)).trail;
    },
    async notes(id) {
      const head = await headOf(id, await open().head(id));
      return head === undefined ? [] : (await load(id, head)).notes;
    },
    async rename(id, name) {
      const release = await claim(id);
      try {
        await open().write(id, headText({ ...(await existing(id)), name }), []);
      } finally {
        release();
      }
    },
    async remove(id) {
      const release = await claim(id);
      try {
        await open().remove(id);
      } finally {
        release();
      }
    },
    async erase() {
      await open().erase();
    },
    close() {
      lifetime.end(new ClosedError('the store'));
      return lifetime.released;
    },
  };
  lifetime.endWith(signal);
  return closedByAwaitUsing(store);
}

function decoded(bytes: Uint8Array): FixRecord | undefined {
  try {
    return decodeRecord(bytes);
  } catch (error) {
    if (error instanceof InputError) return undefined;
    throw error;
  }
}

function headOver(id: string, trail: Trail, records: number): TrailHead {
  const { start, end, distance } = trail.summary();
  return {
    id,
    ...(trail.name !== undefined && { name: trail.name }),
    ...(trail.description !== undefined && { description: trail.description }),
    records,
    fixes: trail.length,
    ...(start !== undefined && { start }),
    ...(end !== undefined && { end }),
    distance,
    finished: false,
  };
}

function entryOf({ id, name, fixes, start, end, distance, finished }: TrailHead): TrailEntry {
  return {
    id,
    ...(name !== undefined && { name }),
    fixes,
    ...(start !== undefined && { start }),
    ...(end !== undefined && { end }),
    distance,
    finished,
  };
}

/** Writes a trail record by record, with its head in each write, so that a list need not read the fixes. */
function writerOf(
  open: () => Shelf,
  first: TrailHead,
  running: RunningSummary,
  release: () => void,
  load: (id: string, labels: TrailLabels) => Promise<{ trail: Trail }>,
): TrailWriter {
  let head = first;
  /** Late fixes are inserted by their times: the head is made again at the end. */
  let overtaken = false;
  /** Writes a record; the listed data of the trail changes only when it is stored. */
  const put = async (record: FixRecord | undefined, change: (now: TrailHead) => TrailHead): Promise<void> => {
    const records: ShelfRecord[] =
      record === undefined ? [] : [{ number: head.records, bytes: encodeRecord(record) }];
    const next = { ...change(head), records: head.records + records.length };
    await open().write(head.id, headText(next), records);
    head = next;
  };
  /** The summary covers the stored fixes, and its count those that were tried: a failed try counts once. */
  let counted: readonly Fix[] | undefined;
  return {
    id: head.id,
    append(fixes) {
      if (fixes !== counted) for (const fix of fixes) running.take(fix);
      counted = fixes;
      overtaken ||= fixes.some(isOvertaken);
      const { start, end, distance } = running.summary();
      return put({ kind: 'fixes', fixes }, (now) => ({
        ...now,
        fixes: now.fixes + fixes.length,
        ...(start !== undefined && { start }),
        ...(end !== undefined && { end }),
        distance,
      }));
    },
    breakSegment() {
      running.breakSegment();
      return put({ kind: 'break' }, (now) => now);
    },
    async note(note) {
      const text = utf8Of(jsonText('note', note));
      await put({ kind: 'note', text }, (now) => now);
    },
    async finish() {
      const whole = overtaken ? headOver(head.id, (await load(head.id, head)).trail, head.records) : head;
      await put(undefined, () => ({ ...whole, finished: true }));
      release();
    },
    release,
  };
}

/** Sorted by time of creation, with a random part that makes them unique. */
function newId(): string {
  // Pages of an insecure origin have no `randomUUID`, and bare engines have no random bytes.
  return `${Date.now().toString(36)}-${Math.random().toString(36).slice(2, 10).padEnd(8, '0')}`;
}

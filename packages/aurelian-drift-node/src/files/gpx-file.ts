import { constants } from 'node:fs';
import { mkdir, open, rm, type FileHandle } from 'node:fs/promises';
import { dirname } from 'node:path';
import type { Fix, TrailLabels, TrailWriter } from 'aurelian-drift';
import {
  GPX_END,
  GPX_SEGMENT_BREAK,
  GPX_TRACK_END,
  gpxStart,
  gpxTrackPoint,
  gpxTrackStart,
} from 'aurelian-drift/internal';
import { fileThere } from './file-there.js';

const FOOT = Buffer.from(GPX_TRACK_END + GPX_END);

/** Fixes written at a time, so that as many of a long list as possible are in the file when the disk is full. */
const PIECE = 16;

/**
 * A writer of a trail to a GPX file that is complete after every fix: each fix is written over the closing tags of the
 * one before, together with new closing tags, in a single write. A program that is killed at any moment leaves a
 * readable file.
 *
 * A call resolves when all its data is in the file. After a failure, such as a full disk, the file is still readable,
 * and the same list of fixes may be given again.
 *
 * @throws {InputError} when the file exists already: recorded data is never overwritten.
 */
export async function gpxFileWriter(path: string, labels: TrailLabels = {}): Promise<TrailWriter> {
  await mkdir(dirname(path), { recursive: true });
  let file: FileHandle;
  try {
    file = await open(path, constants.O_CREAT | constants.O_EXCL | constants.O_WRONLY);
  } catch (error) {
    throw fileThere(error, path, 'Choose another name, or move the file.');
  }
  const head = Buffer.from(gpxStart() + gpxTrackStart(labels));
  try {
    await writeAll(file, Buffer.concat([head, FOOT]), 0);
  } catch (error) {
    // Nothing was recorded yet, and the next try needs the name.
    await file.close();
    await rm(path, { force: true });
    throw error;
  }
  let end = head.length;
  let broken = false;
  let any = false;
  /** The last list, and the number of its fixes in the file. */
  let given: { readonly fixes: readonly Fix[]; done: number } = { fixes: [], done: 0 };
  const write = async (fixes: readonly Fix[]) => {
    const text = (broken && any ? GPX_SEGMENT_BREAK : '') + fixes.map((fix) => gpxTrackPoint(fix)).join('');
    const bytes = Buffer.from(text);
    try {
      await writeAll(file, Buffer.concat([bytes, FOOT]), end);
    } catch (error) {
      // Restores the closing tags over a partial write: that takes no space.
      await writeAll(file, FOOT, end);
      await file.truncate(end + FOOT.length);
      throw error;
    }
    end += bytes.length;
    broken = false;
    any ||= fixes.length > 0;
  };
  return {
    id: path,
    async append(fixes: readonly Fix[]) {
      // After a failure the same list is given again, and continues behind those of its fixes that are in the file.
      if (given.fixes !== fixes) given = { fixes, done: 0 };
      while (given.done < fixes.length) {
        const piece = fixes.slice(given.done, given.done + PIECE);
        await write(piece);
        given.done += piece.length;
      }
    },
    breakSegment() {
      broken = true;
      return Promise.resolve();
    },
    // There is no space for one in the file.
    note: () => Promise.resolve(),
    finish: () => file.close(),
    release: () => void file.close(),
  };
}

/** Writes all bytes at a position: a system may write a part of them, and report the error at the next write. */
async function writeAll(file: FileHandle, bytes: Uint8Array, position: number): Promise<void> {
  for (let done = 0; done < bytes.length;) {
    const { bytesWritten } = await file.write(bytes, done, bytes.length - done, position + done);
    done += bytesWritten;
  }
}

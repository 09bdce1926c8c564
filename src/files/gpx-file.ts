import { constants } from 'node:fs';
import { mkdir, open, type FileHandle } from 'node:fs/promises';
import { dirname } from 'node:path';
import type { Fix } from '../core/fix/fix.js';
import {
  GPX_END,
  GPX_SEGMENT_BREAK,
  GPX_TRACK_END,
  gpxStart,
  gpxTrackPoint,
  gpxTrackStart,
} from '../core/formats/gpx-write.js';
import type { TrailLabels } from '../core/trail/trail.js';
import type { TrailWriter } from '../recorder/trail-store.js';
import { fileThere } from './file-there.js';

const FOOT = GPX_TRACK_END + GPX_END;

/**
 * A trail written to a GPX file that is whole after every fix: each one is written over the closing tags of the one
 * before, closing tags included, in a single write. A program killed at any moment leaves a file that can be read.
 *
 * @throws {InputError} when the file is there already: what was recorded is never overwritten.
 */
export async function gpxFileWriter(path: string, labels: TrailLabels = {}): Promise<TrailWriter> {
  await mkdir(dirname(path), { recursive: true });
  let file: FileHandle;
  try {
    file = await open(path, constants.O_CREAT | constants.O_EXCL | constants.O_WRONLY);
  } catch (error) {
    throw fileThere(error, path, 'Choose another name, or move it away.');
  }
  const head = Buffer.from(gpxStart() + gpxTrackStart(labels));
  await file.write(Buffer.concat([head, Buffer.from(FOOT)]), 0, undefined, 0);
  let end = head.length;
  let broken = false;
  let any = false;
  return {
    id: path,
    async append(fixes: readonly Fix[]) {
      const text = (broken && any ? GPX_SEGMENT_BREAK : '') + fixes.map((fix) => gpxTrackPoint(fix)).join('');
      const bytes = Buffer.from(text);
      await file.write(Buffer.concat([bytes, Buffer.from(FOOT)]), 0, undefined, end);
      end += bytes.length;
      broken = false;
      any ||= fixes.length > 0;
    },
    breakSegment() {
      broken = true;
      return Promise.resolve();
    },
    // There is no room for one in the file.
    note: () => Promise.resolve(),
    finish: () => file.close(),
    release: () => void file.close(),
  };
}

import { constants } from 'node:fs';
import { mkdir, open, readFile, readdir, rm, type FileHandle } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { InputError } from '../core/check/input-error.js';
import type { Fix } from '../core/fix/fix.js';
import { readGpx } from '../core/formats/gpx.js';
import {
  GPX_END,
  GPX_SEGMENT_BREAK,
  GPX_TRACK_END,
  gpxStart,
  gpxTrackPoint,
  gpxTrackStart,
} from '../core/formats/gpx-write.js';
import type { Trail, TrailLabels } from '../core/trail/trail.js';
import { trailEntry, type TrailStore, type TrailWriter } from '../recorder/trail-store.js';

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
    if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
    throw new InputError(
      'bad-value',
      'there is a file of that name already',
      { source: path },
      'Choose another name, or move it away.',
    );
  }
  const head = Buffer.from(gpxStart() + gpxTrackStart(labels));
  await file.write(Buffer.concat([head, Buffer.from(FOOT)]), 0, undefined, 0);
  let end = head.length;
  let broken = false;
  let any = false;
  return {
    id: path,
    async append(fixes: readonly Fix[]) {
      const text = (broken && any ? GPX_SEGMENT_BREAK : '') + fixes.map(gpxTrackPoint).join('');
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
    finish: () => file.close(),
  };
}

/** A folder of GPX files, one a trail; the file's name is the trail's id. */
export function folderStore(folder: string): TrailStore {
  const writing = new Set<string>();
  const pathOf = (id: string) => join(folder, `${fileName(id)}.gpx`);
  const read = async (id: string): Promise<Trail | undefined> => {
    try {
      return readGpx(await readFile(pathOf(id), 'utf8'), pathOf(id)).trails[0];
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code === 'ENOENT') return undefined;
      throw error;
    }
  };
  return {
    async begin(labels) {
      await mkdir(folder, { recursive: true });
      const base = fileName(labels.name ?? 'trail');
      const taken = new Set(await readdir(folder));
      let id = base;
      for (let n = 2; taken.has(`${id}.gpx`); n++) id = `${base}-${n}`;
      const writer = await gpxFileWriter(pathOf(id), labels);
      writing.add(id);
      return {
        ...writer,
        id,
        finish() {
          writing.delete(id);
          return writer.finish();
        },
      };
    },
    async list() {
      await mkdir(folder, { recursive: true });
      const ids = (await readdir(folder))
        .filter((name) => name.endsWith('.gpx'))
        .map((name) => name.slice(0, -4));
      const entries = await Promise.all(
        ids.map(async (id) => {
          const trail = await read(id);
          return trail === undefined ? [] : [trailEntry(id, trail, !writing.has(id))];
        }),
      );
      return entries.flat().toSorted((a, b) => (b.start ?? 0) - (a.start ?? 0));
    },
    read,
    remove: (id) => rm(pathOf(id), { force: true }),
  };
}

/** A name that every file system takes, and that cannot lead out of the folder. */
function fileName(name: string): string {
  const safe = name.replaceAll(/[^\p{L}\p{N}]+/gu, '-').replaceAll(/^-+|-+$/g, '');
  return safe === '' ? 'trail' : safe.slice(0, 80);
}

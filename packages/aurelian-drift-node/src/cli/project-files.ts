import { readFile, readdir, stat } from 'node:fs/promises';
import { join, sep } from 'node:path';
import type { ProjectFile } from '../preflight/project.js';
import { fileKind } from '../preflight/preflight.js';
import { Misuse } from './misuse.js';

/** Folders with fetched or built files. */
const PASSED_OVER = new Set(['node_modules', 'dist', 'build', 'Pods', 'DerivedData', 'coverage']);
/** Maximum size in bytes: a larger file was made by a program. */
const LARGEST = 4_000_000;

/** The files of a project for the preflight check, in the order of their paths. */
export async function readProject(folder: string): Promise<ProjectFile[]> {
  if (!(await stat(folder)).isDirectory())
    throw new Misuse(`${folder} is a file; preflight looks at a folder`);
  const files: ProjectFile[] = [];
  const walk = async (relative: string): Promise<void> => {
    const entries = await readdir(join(folder, relative), { withFileTypes: true });
    for (const entry of entries.toSorted((a, b) => (a.name < b.name ? -1 : 1))) {
      const path = relative === '' ? entry.name : `${relative}/${entry.name}`;
      if (entry.isDirectory()) {
        if (!PASSED_OVER.has(entry.name) && !entry.name.startsWith('.')) await walk(path);
      } else if (entry.isFile() && fileKind({ path, text: '' }) !== undefined) {
        const whole = join(folder, path);
        if ((await stat(whole)).size <= LARGEST)
          files.push({ path: path.split(sep).join('/'), text: await readFile(whole, 'utf8') });
      }
    }
  };
  await walk('');
  return files;
}

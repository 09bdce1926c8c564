/*
 * Runs before and after `npm pack` in a package: builds it, and copies the papers and data of the root into it; with
 * --clean it removes the copies. The papers are packed without pictures, so their images and their links to files
 * outside the package are removed. Declarations that no entry reaches, about a third, are left out.
 */
import { cpSync, mkdirSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join, relative, sep } from 'node:path';
import { fail, root, run } from './setup.mjs';

/** Files and folders of the root that each package carries. */
const PAPERS = ['README.md', 'CHANGELOG.md', 'UPGRADING.md', 'docs'];
const DATA = {
  'aurelian-drift': ['LICENSE', 'demo'],
  'aurelian-drift-node': ['LICENSE', 'demo', 'deploy'],
};
/** Of the demo only the data is packed; its scripts make the data. */
const isPacked = (path) => !/\.ts$/.test(path) && !path.endsWith('/make');

/** Excludes files of a package whose folder is packed as a whole. */
const LEFT_OUT = 'dist/.npmignore';

const folder = process.cwd();
const name = JSON.parse(readFileSync(join(folder, 'package.json'), 'utf8')).name;
if (DATA[name] === undefined) fail(`Run this in the folder of one of: ${Object.keys(DATA).join(', ')}.`);
const copies = [...PAPERS, ...DATA[name]];

for (const copy of [...copies, LEFT_OUT]) rmSync(join(folder, copy), { recursive: true, force: true });
if (!process.argv.includes('--clean')) {
  // The output of the build goes to standard error, because npm pack --json writes to standard output.
  if (run('npm', ['run', '-s', 'build'], { stdio: ['ignore', 2, 2] }) !== 0) fail(`${name} does not build.`);
  writeFileSync(
    join(folder, LEFT_OUT),
    unreached()
      .flatMap((file) => [`/${file}\n`, `/${file}.map\n`])
      .join(''),
  );
  for (const copy of DATA[name])
    cpSync(join(root, copy), join(folder, copy), { recursive: true, filter: isPacked });
  const papers = PAPERS.flatMap((paper) =>
    paper.endsWith('.md')
      ? [paper]
      : readdirSync(join(root, paper)).flatMap((each) => (each.endsWith('.md') ? [`${paper}/${each}`] : [])),
  );
  for (const paper of papers) {
    mkdirSync(dirname(join(folder, paper)), { recursive: true });
    writeFileSync(
      join(folder, paper),
      packed(readFileSync(join(root, paper), 'utf8'), dirname(paper), papers),
    );
  }
}

/**
 * The text of a paper without images, with links to packed papers and to the web only; any other link is replaced by
 * its text.
 */
function packed(text, from, papers) {
  const leads = (target) =>
    /^(?:https?:|#)/.test(target) || papers.includes(relative('.', join(from, target.replace(/#.*$/, ''))));
  return text
    .replaceAll(/^(?:!\[[^\]]*\]\([^)]*\)|<img\b[^>]*>)\n\n?/gm, '')
    .replaceAll(/!\[([^\]]*)\]\([^)]*\)|<img\b[^>]*>/g, '')
    .replaceAll(/\[([^\]]*)\]\(([^)\s]*)\)/g, (link, words, target) => (leads(target) ? link : words));
}

/** Declarations in dist, by their paths there, that no entry of the package reaches. */
function unreached() {
  const { exports } = JSON.parse(readFileSync(join(folder, 'package.json'), 'utf8'));
  const reached = new Set(
    Object.values(exports).flatMap(({ types }) => (types ? [join(folder, types)] : [])),
  );
  // The set grows during the loop.
  for (const file of reached)
    for (const [, path] of readFileSync(file, 'utf8').matchAll(/(?:from|import\()\s*'(\.[^']+)\.js'/g))
      reached.add(join(dirname(file), `${path}.d.ts`));
  const dist = join(folder, 'dist');
  return readdirSync(dist, { recursive: true })
    .filter((file) => file.endsWith('.d.ts') && !reached.has(join(dist, file)))
    .map((file) => file.split(sep).join('/'));
}

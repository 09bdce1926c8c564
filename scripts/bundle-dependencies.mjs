/*
 * Runs after the compiler: bundles the used parts of the browser package's larger dependencies into dist/bundled, one
 * file for each, and points the imports there. An app then installs neither the unused parts nor their dependencies.
 * The sources still import the packages as usual.
 */
import { mkdirSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join, relative, sep } from 'node:path';
import { build } from 'vite';
import { root } from './setup.mjs';

/** The resolve conditions of each, by the ending of its file. */
const ANYWHERE = { '': ['module', 'default'] };
const BUNDLED = {
  'd3-dsv': ANYWHERE,
  'd3-scale': ANYWHERE,
  'd3-shape': ANYWHERE,
  fflate: ANYWHERE,
  // Node has no page: lit supplies what it needs to be imported there.
  lit: { '': ['browser', 'module', 'default'], '.node': ['node', 'module', 'default'] },
  valibot: ANYWHERE,
};
const IMPORT = new RegExp(`^import (.+) from '(${Object.keys(BUNDLED).join('|')})';$`, 'gm');

const dist = join(root, 'packages/aurelian-drift/dist');
const out = join(dist, 'bundled');
const files = readdirSync(dist, { recursive: true })
  .filter((file) => file.endsWith('.js') && !file.startsWith('bundled'))
  .map((file) => join(dist, file));

/** The compiler writes only changed files: the names of the others are known from the last run. */
const list = join(out, 'names.json');
let used = {};
try {
  used = JSON.parse(readFileSync(list, 'utf8'));
} catch {
  // the first run
}
const before = JSON.stringify(used);
for (const file of files) {
  const text = readFileSync(file, 'utf8');
  const led = text.replaceAll(IMPORT, (_, what, name) => {
    used[name] = [...new Set([...(used[name] ?? []), ...namesIn(what, text)])].sort();
    // Variants are selected by the conditions in package.json.
    const here = `${relative(dirname(file), join(out, name)).split(sep).join('/')}.js`;
    return `import ${what} from '${BUNDLED[name] === ANYWHERE ? here : `#${name}`}';`;
  });
  if (led !== text) writeFileSync(file, led);
}
if (JSON.stringify(used) !== before) await bundle();

/** The names that an import takes, of `{ a, b as c }` or `* as all`. */
function namesIn(what, text) {
  const all = /^\* as (\w+)$/.exec(what)?.[1];
  if (all !== undefined)
    return [...text.matchAll(new RegExp(`\\b${all}\\.(\\w+)`, 'g'))].map(([, name]) => name);
  return what
    .replaceAll(/[{}\s]/g, ' ')
    .split(',')
    .map((each) => each.trim().split(' ')[0])
    .filter(Boolean);
}

async function bundle() {
  rmSync(out, { recursive: true, force: true });
  mkdirSync(out, { recursive: true });
  const licences = new Map();
  for (const [name, names] of Object.entries(used)) {
    for (const [ending, conditions] of Object.entries(BUNDLED[name])) {
      const entry = join(out, `${name}${ending}.js`);
      writeFileSync(entry, `export { ${names.join(', ')} } from '${name}';\n`);
      const { code, moduleIds } = await bundled(entry, conditions);
      writeFileSync(entry, code);
      for (const id of moduleIds) {
        const folder = /^.*[\\/]node_modules[\\/](?:@[^\\/]+[\\/])?[^\\/]+(?=[\\/])/.exec(id)?.[0];
        if (folder !== undefined) licences.set(folder, licenceOf(folder));
      }
    }
  }
  writeFileSync(join(out, 'LICENSES.txt'), [...licences.values()].join('\n'));
  writeFileSync(list, JSON.stringify(used));
}

async function bundled(entry, conditions) {
  const result = await build({
    configFile: false,
    root,
    logLevel: 'warn',
    resolve: { conditions },
    build: { write: false, minify: false, lib: { entry, formats: ['es'], fileName: 'bundled' } },
  });
  return [result].flat()[0].output[0];
}

/** What must be distributed with a package: its licence, or the licence's name if the package has no licence file. */
function licenceOf(folder) {
  const { name, version, license, author } = JSON.parse(readFileSync(join(folder, 'package.json'), 'utf8'));
  const file = readdirSync(folder).find((each) => /^licen[cs]e/i.test(each));
  if (file === undefined && license === undefined) throw new Error(`${name} has no licence`);
  const text =
    file === undefined
      ? `${license}, ${author?.name ?? author ?? ''}\n`
      : readFileSync(join(folder, file), 'utf8');
  return `${name} ${version}\n\n${text}`;
}

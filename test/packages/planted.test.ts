import { expect } from 'chai';
import { execFile } from 'node:child_process';
import { cp, mkdir, mkdtemp, readFile, readdir, realpath, rm, writeFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { dirname, join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { PACKAGES, lendPackages } from '../../scripts/setup.mjs';

const root = fileURLToPath(new URL('../..', import.meta.url));
const run = promisify(execFile);
const BROWSER = 'packages/aurelian-drift/src';
const NODE = 'packages/aurelian-drift-node/src';

/** Files of a folder in this checkout, without output, papers and installed packages. */
async function checkedOut(folder: string): Promise<string[]> {
  const found: string[] = [];
  for (const entry of await readdir(join(root, folder), { withFileTypes: true })) {
    if (/^(?:\.git|node_modules|dist|build|tour|docs|surface)$/.test(entry.name)) continue;
    const path = join(folder, entry.name);
    if (entry.isDirectory()) found.push(...(await checkedOut(path)));
    else found.push(path);
  }
  return found;
}

/** A copy of this checkout without installed packages, with its own packages linked as `npm test` links them. */
async function copyOfCheckout(): Promise<string> {
  const folder = await realpath(await mkdtemp(join(tmpdir(), 'drift-planted-')));
  const files = await checkedOut('');
  // The build output is copied too, so that the compiler has little to do.
  for (const name of PACKAGES) files.push(`packages/${name}/dist`);
  files.push(
    ...(await readdir(join(root, 'build')))
      .filter((file) => file.endsWith('.tsbuildinfo'))
      .map((file) => `build/${file}`),
  );
  for (const file of files) {
    await mkdir(join(folder, dirname(file)), { recursive: true });
    await cp(join(root, file), join(folder, file), { recursive: true, preserveTimestamps: true });
  }
  lendPackages(folder);
  return folder;
}

describe('a violation that is planted in a copy of the checkout', function () {
  this.timeout(600_000);
  let folder = '';
  before(async () => (folder = await copyOfCheckout()));
  after(() => rm(folder, { recursive: true, force: true }));

  /** Writes files, by path. */
  const plant = async (files: Readonly<Record<string, string>>) => {
    for (const [path, text] of Object.entries(files)) await writeFile(join(folder, path), text);
  };
  const uproot = (files: Readonly<Record<string, string>>) =>
    Promise.all(Object.keys(files).map((path) => rm(join(folder, path))));
  /** The output of a tool in the copy, whether it fails or not. */
  const reportedBy = async (tool: string, words: readonly string[]): Promise<string> => {
    const options = { cwd: folder, maxBuffer: 1e8 };
    const running = run(join(root, 'node_modules/.bin', tool), words, options);
    return (await running.catch((error: unknown) => error as { stdout: string })).stdout;
  };

  it('is found by each rule of the layers, and nothing else is', async () => {
    const { forbidden } = createRequire(import.meta.url)('../../.dependency-cruiser.cjs') as {
      forbidden: { name: string }[];
    };
    const wing = (name: string, other: string) => ({
      [`${BROWSER}/${name}/planted.ts`]: `import '../${other}/index.js';\n`,
    });
    const nodeWing = (name: string) => ({ [`${NODE}/${name}/planted.ts`]: "import '../cli/json.js';\n" });
    const files = {
      [`${BROWSER}/core/planted.ts`]: "import 'node:fs';\nimport '../live/warn.js';\n",
      [`${BROWSER}/core/planted-package.ts`]: "import 'idb';\n",
      [`${BROWSER}/live/planted.ts`]: "import '../receiver/clock.js';\nimport './nowhere.js';\n",
      [`${BROWSER}/live/planted-alone.ts`]: 'export const alone = 1;\n',
      [`${BROWSER}/live/planted-one.ts`]: "import './planted-other.js';\n",
      [`${BROWSER}/live/planted-other.ts`]: "import './planted-one.js';\n",
      [`${BROWSER}/receiver/planted.ts`]: "import '../recorder/recorder.js';\n",
      [`${BROWSER}/recorder/planted.ts`]: "import '../stores/index.js';\n",
      [`${BROWSER}/elements/planted.ts`]: "import '../testing.js';\nimport 'react';\n",
      [`${BROWSER}/react/planted.ts`]: "import '../testing.js';\n",
      [`${BROWSER}/vue/planted.ts`]: "import '../testing.js';\n",
      ...wing('page', 'elements'),
      ...wing('texts', 'stores'),
      ...wing('sources', 'stores'),
      ...wing('stores', 'map'),
      ...wing('places', 'map'),
      ...wing('ways', 'places'),
      ...wing('service', 'map'),
      ...wing('presence', 'places'),
      ...wing('preflight', 'map'),
      ...wing('report', 'map'),
      [`${BROWSER}/map/planted.ts`]:
        "import '../places/index.js';\nimport 'mqtt';\nimport 'aurelian-drift-node';\n",
      ...nodeWing('files'),
      ...nodeWing('services'),
      ...nodeWing('stores'),
      ...nodeWing('preflight'),
      [`${NODE}/cli/planted.ts`]: "import '../../../aurelian-drift/src/core/check/suggest.js';\n",
      'test/cli/planted.ts': "import '../../packages/aurelian-drift/src/live/warn.js';\n",
    };
    await plant(files);
    const words = [
      'packages',
      'examples',
      'bench',
      'demo',
      'test',
      'scripts',
      '--config',
      '.dependency-cruiser.cjs',
      '--output-type',
      'json',
    ];
    const { summary } = JSON.parse(await reportedBy('depcruise', words)) as {
      summary: { violations: { from: string; rule: { name: string } }[] };
    };
    await uproot(files);
    expect([...new Set(summary.violations.map(({ rule }) => rule.name))]).to.have.members(
      forbidden.map(({ name }) => name),
    );
    expect(
      [...new Set(summary.violations.map(({ from }) => from))].filter((from) => !from.includes('planted')),
    ).to.deep.equal([]);
  });

  it('of unused or undeclared code is found in both packages and at the root', async () => {
    const files = {
      [`${BROWSER}/map/planted.ts`]: 'export {};\n',
      [`${NODE}/files/planted.ts`]: 'export {};\n',
      'test/cli/planted.test.ts': "import 'picocolors';\n",
    };
    await plant(files);
    const kept = new Map<string, string>();
    const change = async (path: string, edit: (text: string) => string) => {
      kept.set(path, await readFile(join(folder, path), 'utf8'));
      await writeFile(join(folder, path), edit(kept.get(path)!));
    };
    for (const path of [`${BROWSER}/live/warn.ts`, `${NODE}/files/file-there.ts`])
      await change(path, (text) => `${text}export const planted = 1;\n`);
    for (const path of PACKAGES.map((name) => `packages/${name}/package.json`))
      await change(path, (text) => text.replace('"dependencies": {', '"dependencies": { "rw": "*",'));
    const { issues } = JSON.parse(await reportedBy('knip', ['--reporter', 'json'])) as {
      issues: ({ file: string } & Record<string, { name: string }[]>)[];
    };
    await uproot(files);
    for (const [path, text] of kept) await writeFile(join(folder, path), text);
    const found = issues.flatMap(({ file, ...kinds }) =>
      Object.entries(kinds).flatMap(([kind, list]) =>
        Array.isArray(list)
          ? list.map(({ name }) => `${kind} ${file} ${kind === 'files' ? '' : name}`.trim())
          : [],
      ),
    );
    expect(found).to.have.members([
      `files ${BROWSER}/map/planted.ts`,
      `files ${NODE}/files/planted.ts`,
      `exports ${BROWSER}/live/warn.ts planted`,
      `exports ${NODE}/files/file-there.ts planted`,
      ...PACKAGES.map((name) => `dependencies packages/${name}/package.json rw`),
      'unlisted test/cli/planted.test.ts picocolors',
    ]);
  });

  it('of each rule of lint is found wherever code stands, with the types of the packages known', async () => {
    const floating = "import { oneFix } from 'aurelian-drift';\noneFix();\n";
    // Each configured rule once.
    const all = `${floating}import { Trail } from 'aurelian-drift';
      const unused = 1;
      export const lengthOf = (text: { a?: string }, trail: Trail) => text.a!.length + trail.length;
      export const textOf = (value: object) => \`\${value}\`;
      export function call(run: () => void) { return run(); }
      console.log(2);\n`;
    const rules = [
      'no-floating-promises',
      'consistent-type-imports',
      'no-unused-vars',
      'no-non-null-assertion',
      'restrict-template-expressions',
      'no-confusing-void-expression',
    ].map((rule) => `@typescript-eslint/${rule}`);
    const files = {
      [`${BROWSER}/map/planted.ts`]: all.replaceAll("'aurelian-drift'", "'../index.js'"),
      [`${NODE}/files/planted.ts`]: all,
      'test/cli/planted.ts': floating,
      'bench/planted.ts': floating,
      'examples/hut/planted.ts': floating,
    };
    await plant(files);
    const found = JSON.parse(await reportedBy('eslint', [...Object.keys(files), '--format', 'json'])) as {
      filePath: string;
      messages: { ruleId: string }[];
    }[];
    await uproot(files);
    for (const { filePath, messages } of found) {
      const inPackage = relative(folder, filePath).startsWith('packages/');
      expect([...new Set(messages.map(({ ruleId }) => ruleId))], filePath).to.include.members(
        inPackage ? [...rules, 'no-console'] : rules.slice(0, 1),
      );
    }
    expect(found.map(({ filePath }) => relative(folder, filePath))).to.have.members(Object.keys(files));
  });

  it('of the platform that a part may not know is found by the compiler', async () => {
    const known = 'export const page = document.title;\nexport const way = process.pid;\n';
    /** What the compiler refuses in a file, by the options of the part that it stands in. */
    const refused = async (project: string, file: string): Promise<string[]> => {
      const path = relative(project, file);
      await plant({
        [file]: known,
        [`${project}/tsconfig.planted.json`]: JSON.stringify({
          extends: './tsconfig.json',
          compilerOptions: {
            noEmit: true,
            composite: false,
            incremental: false,
            declaration: false,
            declarationMap: false,
          },
          files: [path],
          include: [],
          references: [],
        }),
      });
      const reported = await reportedBy('tsc', ['-p', `${project}/tsconfig.planted.json`]);
      return [...reported.matchAll(/Cannot find name '(\w+)'/g)].map(([, name = '']) => name).sort();
    };
    expect(await refused(`${BROWSER}/core`, `${BROWSER}/core/geodesy/planted.ts`)).to.deep.equal([
      'document',
      'process',
    ]);
    expect(await refused('packages/aurelian-drift', `${BROWSER}/live/planted.ts`)).to.deep.equal(['process']);
    expect(await refused('packages/aurelian-drift-node', `${NODE}/files/planted.ts`)).to.deep.equal([
      'document',
    ]);
  });
});

import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';
import ts from 'typescript';

const root = fileURLToPath(new URL('../..', import.meta.url));
const folder = join(root, `build/snippets-${process.pid}`);
/** Names that earlier snippets of the page imported; each may import them again. */
const IMPORT = /^\s*import [^;]*;[^\n]*$/gm;

interface Snippet {
  /** `docs/page.md:line`. */
  readonly place: string;
  readonly code: string;
  /** Whether it is marked to be run in Node. */
  readonly run: boolean;
}

/** The code snippets of a page; of an HTML snippet its module scripts. */
function snippetsOf(page: string): Snippet[] {
  const text = readFileSync(join(root, page), 'utf8');
  return [...text.matchAll(/^```(js|ts|html)( run)?\n([^]*?)^```$/gm)].flatMap((found) => {
    const [whole, kind, run, body = ''] = found;
    const place = `${page}:${text.slice(0, found.index + whole.indexOf('\n')).split('\n').length}`;
    if (kind !== 'html') return [{ place, code: body, run: run !== undefined }];
    return [...body.matchAll(/<script type="module">([^]*?)<\/script>/g)].map(([, code = '']) => ({
      place,
      code,
      run: false,
    }));
  });
}

/** A snippet as a module, with the earlier imports of its page that it does not import itself. */
function moduleOf(code: string, earlier: readonly string[]): string {
  const own = (code.match(IMPORT) ?? []).join('\n');
  const names = (line: string) =>
    (/\{([^}]*)\}/.exec(line)?.[1] ?? '')
      .split(',')
      .map((name) => name.trim())
      .filter(Boolean);
  const carried = new Map<string, string>();
  for (const line of earlier)
    for (const name of names(line)) {
      const declared = new RegExp(`\\b(?:const|let|function|class) ${name}\\b`).test(code);
      if (!names(own.replaceAll('\n', ' ')).includes(name) && !own.includes(name) && !declared)
        carried.set(name, /from '([^']*)'/.exec(line)?.[1] ?? '');
    }
  const header = [...carried].map(([name, from]) => `import { ${name} } from '${from}';`).join(' ');
  return `${header}\n${code}\nexport {};\n`;
}

describe('the snippets of README and docs', function () {
  this.timeout(240_000);
  const pages = [
    'README.md',
    ...readdirSync(join(root, 'docs'))
      .filter((file) => file.endsWith('.md'))
      .map((file) => `docs/${file}`),
  ];
  const snippets = pages.flatMap((page) => {
    const imports: string[] = [];
    return snippetsOf(page).map((snippet) => {
      const text = moduleOf(snippet.code, imports);
      imports.push(...(snippet.code.match(IMPORT) ?? []));
      return { ...snippet, text };
    });
  });
  const fileOf = (i: number) => join(folder, `snippet-${i}.ts`);
  before(() => {
    mkdirSync(folder, { recursive: true });
    for (const [i, { text }] of snippets.entries()) writeFileSync(fileOf(i), text);
  });
  after(() => rmSync(folder, { recursive: true, force: true }));

  it('compile under strict TypeScript', () => {
    const program = ts.createProgram(
      [...snippets.keys()].map(fileOf).concat(join(root, 'test/packages/snippet-context.d.ts')),
      {
        strict: true,
        exactOptionalPropertyTypes: true,
        noEmit: true,
        skipLibCheck: true,
        module: ts.ModuleKind.ESNext,
        moduleResolution: ts.ModuleResolutionKind.Bundler,
        target: ts.ScriptTarget.ES2023,
        lib: ['lib.es2023.d.ts', 'lib.dom.d.ts', 'lib.dom.iterable.d.ts', 'lib.dom.asynciterable.d.ts'],
        types: [],
      },
    );
    const problems = ts.getPreEmitDiagnostics(program).map(({ file, start, messageText }) => {
      const which =
        file === undefined ? -1 : [...snippets.keys()].findIndex((i) => fileOf(i) === file.fileName);
      const line = file?.getLineAndCharacterOfPosition(start ?? 0).line ?? 0;
      const place = snippets[which]?.place ?? relative(root, file?.fileName ?? '');
      return `${place} + ${line}: ${ts.flattenDiagnosticMessageText(messageText, ' ')}`;
    });
    expect(problems).to.deep.equal([]);
    expect(snippets.length).to.be.above(30);
  });

  it('that are marked to run do run, print no error, and return the value behind `// =`', () => {
    const runnable = snippets.filter(({ run }) => run);
    expect(runnable.length).to.be.above(2);
    for (const { place, text } of runnable) {
      const file = join(folder, 'run.ts');
      writeFileSync(file, text.replaceAll(/^(\S.*); \/\/ = .*$/gm, 'console.log(String($1));'));
      const stated = [...text.matchAll(/^\S.*; \/\/ = (.*)$/gm)].map(([, value = '']) => value);
      const node = ['--conditions=aurelian-source', '--import=tsx', file];
      const { status, stdout, stderr } = spawnSync(process.execPath, node, {
        cwd: root,
        encoding: 'utf8',
        timeout: 60_000,
      });
      expect([status, stderr], place).to.deep.equal([0, '']);
      expect(stdout.split('\n').slice(0, -1), place).to.deep.equal(stated);
    }
  });
});

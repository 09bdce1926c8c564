import { expect } from 'chai';
import { readFileSync, readdirSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import ts from 'typescript';

const root = fileURLToPath(new URL('../../', import.meta.url));
const read = (path: string) => readFileSync(root + path, 'utf8');
const filesIn = (folder: string, ending: string): string[] =>
  (readdirSync(root + folder, { recursive: true }) as string[])
    .filter((file) => file.endsWith(ending))
    .map((file) => `${folder}/${file}`);
const sources = ['packages/aurelian-drift/src', 'packages/aurelian-drift-node/src'].flatMap((folder) =>
  filesIn(folder, '.ts'),
);
const papers = [...filesIn('docs', '.md'), 'README.md', 'CONTRIBUTING.md'];

/** Every name in the code of the packages: identifiers, and words within texts, such as the values of an option. */
function namesInCode(): Set<string> {
  const names = new Set<string>();
  for (const path of sources) {
    const scanner = ts.createScanner(ts.ScriptTarget.Latest, true, ts.LanguageVariant.Standard, read(path));
    for (let token = scanner.scan(); token !== ts.SyntaxKind.EndOfFileToken; token = scanner.scan())
      for (const [word] of scanner.getTokenText().matchAll(/[$\w]+/g)) names.add(word);
  }
  return names;
}

/** Names of code in backticks: `camelCase`, `PascalCase` or `$live`, alone, with parentheses, or as `Owner.member`. */
function* namesIn(text: string): Generator<string> {
  for (const [, code = ''] of text.replace(/```[^]*?```/g, '').matchAll(/`([^`\n]+)`/g)) {
    const [, name = ''] = /^([$A-Za-z][$\w]*(?:\.[$\w]+)*)(?:\(.*\))?$/.exec(code) ?? [];
    for (const part of name.split('.'))
      if (/^\$?[a-z]+[A-Z]\w*$|^[A-Z][a-z]+\w*$|^\$\w+$/.test(part)) yield part;
  }
}

/** Names of platforms, formats and tools, which our code does not define. */
const ELSEWHERE = new Set([
  'MessagePort',
  'AbortError',
  'QuotaExceededError',
  'horizontalAccuracy',
  '$name',
  'readX',
  'writeX',
  'xFrom',
  'xToGeoJson',
  'St',
  'Street',
  'Rd',
  'Road',
  'readNAME',
  'writeNAME',
]);

describe('names in comments and papers', () => {
  const known = namesInCode();

  it('in doc comments are names of the code', () => {
    const stale = sources.flatMap((path) =>
      [...read(path).matchAll(/\/\*\*[^]*?\*\//g)].flatMap(([comment]) =>
        [...namesIn(comment)]
          .filter((name) => !known.has(name) && !ELSEWHERE.has(name))
          .map((name) => `${path}: ${name}`),
      ),
    );
    expect(stale).to.deep.equal([]);
  });

  it('in the docs are names of the code', () => {
    const stale = papers.flatMap((path) =>
      [...namesIn(read(path))]
        .filter((name) => !known.has(name) && !ELSEWHERE.has(name))
        .map((name) => `${path}: ${name}`),
    );
    expect(stale).to.deep.equal([]);
  });
});

/*
 * The public surface of the packages: every exported name of an entry with its signature, from the built declarations.
 * `npm run surface` writes it to surface/, one file an entry; the tests compare.
 */
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';
import ts from 'typescript';
import { PACKAGES } from './setup.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
/** Exports that only the Node package needs are not covered by the compatibility promise. */
const NOT_PUBLIC = ['./internal', './package.json'];
/** Each element by itself is a part of the entry of all. */
const OF_ANOTHER = /^\.\/elements\/./;

export interface Surface {
  /** The declarations of each public entry, by the name that an app imports. */
  readonly entries: ReadonlyMap<string, string>;
  /**
   * Types of the packages that stand in a public signature and are exported by no public entry: `Type in Name (file)`.
   */
  readonly hidden: readonly string[];
  /** Exports, and members of options types, without a doc comment: `Name (entry)` or `Name.member (entry)`. */
  readonly undocumented: readonly string[];
}

export function publicSurface(): Surface {
  const files = new Map<string, string>();
  for (const name of PACKAGES) {
    const folder = join(root, 'packages', name);
    const { exports } = JSON.parse(readFileSync(join(folder, 'package.json'), 'utf8')) as {
      exports: Readonly<Record<string, { readonly types?: string }>>;
    };
    for (const [entry, { types }] of Object.entries(exports))
      if (types !== undefined && !NOT_PUBLIC.includes(entry) && !OF_ANOTHER.test(entry))
        files.set(name + entry.slice(1), join(folder, types));
  }
  const program = ts.createProgram([...files.values()], {
    module: ts.ModuleKind.NodeNext,
    moduleResolution: ts.ModuleResolutionKind.NodeNext,
    target: ts.ScriptTarget.ES2023,
    skipLibCheck: true,
    types: ['node'],
  });
  const checker = program.getTypeChecker();
  const resolved = (symbol: ts.Symbol) =>
    (symbol.flags & ts.SymbolFlags.Alias) === 0 ? symbol : checker.getAliasedSymbol(symbol);
  const exported = new Map(
    [...files].map(([entry, file]) => {
      const module = checker.getSymbolAtLocation(program.getSourceFile(file) as ts.SourceFile);
      const symbols = module === undefined ? [] : checker.getExportsOfModule(module);
      return [entry, symbols.map((symbol) => [symbol.name, resolved(symbol)] as const)];
    }),
  );
  const known = new Set([...exported.values()].flat().map(([, symbol]) => symbol));
  const hidden = new Set<string>();
  const undocumented = new Set<string>();
  const entries = new Map<string, string>();
  for (const [entry, symbols] of exported) {
    const texts = [];
    for (const [name, symbol] of [...symbols].sort(([a], [b]) => (a < b ? -1 : 1)))
      for (const declaration of symbol.declarations ?? []) {
        if (!declaration.getSourceFile().fileName.startsWith(join(root, 'packages'))) continue;
        texts.push(textOf(declaration, name, checker));
        for (const bare of withoutComment(declaration, name)) undocumented.add(`${bare} (${entry})`);
        for (const { type, file } of unknownTypes(declaration, checker, known))
          hidden.add(`${type} in ${name} (${relative(root, file)})`);
      }
    entries.set(entry, `${[...new Set(texts)].join('\n')}\n`);
  }
  return { entries, hidden: [...hidden].sort(), undocumented: [...undocumented].sort() };
}

/** Whether a member is visible only to the class itself and to its subclasses. */
function isPrivate(member: ts.Node): boolean {
  if (ts.isClassElement(member) && member.name !== undefined && ts.isPrivateIdentifier(member.name))
    return true;
  const modifiers = ts.canHaveModifiers(member) ? (ts.getModifiers(member) ?? []) : [];
  return modifiers.some(
    ({ kind }) => kind === ts.SyntaxKind.PrivateKeyword || kind === ts.SyntaxKind.ProtectedKeyword,
  );
}

/** Names in a declaration without a doc comment: its own, and those of the members of an options type. */
function withoutComment(declaration: ts.Declaration, name: string): string[] {
  const commented = (node: ts.Node) => ts.getJSDocCommentsAndTags(node).length > 0;
  const own = ts.isVariableDeclaration(declaration) ? declaration.parent.parent : declaration;
  const members =
    ts.isInterfaceDeclaration(declaration) && name.endsWith('Options') ? [...declaration.members] : [];
  return [
    ...(commented(own) ? [] : [name]),
    ...members
      .filter((member) => !commented(member))
      .map((member) => `${name}.${member.name?.getText() ?? ''}`),
  ];
}

/** Whether a type is derived from a list of values: `(typeof LIST)[number]`. */
function isOfList(declaration: ts.Node): declaration is ts.TypeAliasDeclaration {
  return ts.isTypeAliasDeclaration(declaration) && ts.isIndexedAccessTypeNode(declaration.type);
}

/** A declaration without comments and private members. */
function textOf(declaration: ts.Declaration, name: string, checker: ts.TypeChecker): string {
  if (isOfList(declaration)) {
    const type = checker.getTypeAtLocation(declaration);
    const text = checker.typeToString(
      type,
      undefined,
      ts.TypeFormatFlags.NoTruncation | ts.TypeFormatFlags.InTypeAlias,
    );
    return `export type ${name} = ${text};`;
  }
  const node: ts.Node = ts.isVariableDeclaration(declaration) ? declaration.parent.parent : declaration;
  const printer = ts.createPrinter({ removeComments: true });
  const result = ts.transform(node, [
    (context) => (top) => {
      const visit = (each: ts.Node): ts.Node | undefined =>
        ts.isClassElement(each) && isPrivate(each) ? undefined : ts.visitEachChild(each, visit, context);
      return visit(top) ?? top;
    },
  ]);
  const text = printer.printNode(
    ts.EmitHint.Unspecified,
    result.transformed[0] as ts.Node,
    declaration.getSourceFile(),
  );
  return text.includes(name) ? text : `${name}: ${text}`;
}

/** Types of our own in a declaration that no entry exports. */
function unknownTypes(declaration: ts.Declaration, checker: ts.TypeChecker, known: ReadonlySet<ts.Symbol>) {
  const found: { type: string; file: string }[] = [];
  const look = (name: ts.Node) => {
    let symbol = checker.getSymbolAtLocation(name);
    if (symbol !== undefined && (symbol.flags & ts.SymbolFlags.Alias) !== 0)
      symbol = checker.getAliasedSymbol(symbol);
    const [from] = symbol?.declarations ?? [];
    if (symbol === undefined || from === undefined || known.has(symbol)) return;
    if ((symbol.flags & ts.SymbolFlags.TypeParameter) !== 0) return;
    const { fileName } = from.getSourceFile();
    if (fileName.startsWith(join(root, 'packages'))) found.push({ type: symbol.name, file: fileName });
  };
  const visit = (node: ts.Node): void => {
    if (isPrivate(node) || isOfList(node)) return;
    if (ts.isTypeReferenceNode(node)) look(node.typeName);
    else if (ts.isExpressionWithTypeArguments(node)) look(node.expression);
    else if (ts.isTypeQueryNode(node)) look(node.exprName);
    else if (ts.isImportTypeNode(node) && node.qualifier !== undefined) look(node.qualifier);
    ts.forEachChild(node, visit);
  };
  visit(ts.isVariableDeclaration(declaration) ? declaration.parent.parent : declaration);
  return found;
}

/** The file that holds the surface of an entry. */
export function surfaceFile(entry: string): string {
  return join(root, 'surface', `${entry.replaceAll('/', '.')}.txt`);
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const { entries, hidden } = publicSurface();
  rmSync(join(root, 'surface'), { recursive: true, force: true });
  mkdirSync(join(root, 'surface'));
  for (const [entry, text] of entries) writeFileSync(surfaceFile(entry), text);
  for (const each of hidden) console.log(`not exported: ${each}`);
}

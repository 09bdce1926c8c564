/*
 * The floors of the house: an import goes down towards core, never up, and not between neighbours of one floor.
 * core <- live <- receiver <- recorder <- {sources, stores, map, …} <- elements <- cli
 */
const WINGS = ['sources', 'stores', 'files', 'places', 'presence', 'preflight', 'map', 'report', 'services'];

const only = (from, allowed) => ({
  name: `${from}-imports-downward`,
  severity: 'error',
  from: { path: `^src/${from}/` },
  to: { path: '^src/', pathNot: [from, ...allowed].map((folder) => `^src/${folder}/`) },
});

module.exports = {
  forbidden: [
    { name: 'no-circular', severity: 'error', from: {}, to: { circular: true } },
    { name: 'no-orphans', severity: 'error', from: { orphan: true, path: '^src/' }, to: {} },
    only('core', []),
    only('live', []),
    only('receiver', ['core', 'live']),
    only('recorder', ['core', 'live', 'receiver']),
    ...WINGS.map((wing) => only(wing, ['core', 'live', 'receiver', 'recorder'])),
    only('elements', ['core', 'live', 'receiver', 'recorder', ...WINGS]),
    {
      name: 'core-is-pure',
      severity: 'error',
      from: { path: '^src/core/' },
      to: {
        dependencyTypes: ['npm', 'core'],
        pathNot: ['node_modules/(saxes|valibot|flatbush|flatqueue|d3-dsv)/'],
      },
    },
    {
      name: 'pages-run-without-node',
      severity: 'error',
      from: {
        path: '^src/(core|live|receiver|recorder|sources|places|presence|map|elements)/|^src/(index|testing)\\.ts$',
      },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'users-take-the-front-door',
      comment: 'tests, pages and benches import the package by its name',
      severity: 'error',
      from: { path: '^(test|examples|bench|demo)/', pathNot: '^test/core/' },
      to: {
        path: '^src/',
        pathNot: '^src/(index|node|testing|(map|elements|places|presence|stores|report)/index)\\.ts$',
      },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '^test/preflight/projects/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.rest.json' },
    enhancedResolveOptions: { conditionNames: ['aurelian-source', 'import', 'node', 'default', 'types'] },
  },
};

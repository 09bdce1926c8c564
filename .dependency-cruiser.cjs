/*
 * The floors of the house: an import goes down towards core, never up, and not between neighbours of one floor.
 * core <- live <- receiver <- {recorder, service} <- {sources, stores, map, …} <- page <- elements <- {react, vue}, and above them the Node package: its wings <- cli
 */
const BROWSER = 'packages/aurelian-drift/src';
const NODE = 'packages/aurelian-drift-node/src';
const WINGS = ['texts', 'sources', 'stores', 'places', 'ways', 'presence', 'preflight', 'map', 'report'];
const NODE_WINGS = ['files', 'services', 'stores', 'preflight'];

/** Of the files in one folder of a package: imports within the package lead to the folder itself and to the allowed ones. */
const only = (source, from, allowed) => ({
  name: `${source === NODE ? 'node-' : ''}${from}-imports-downward`,
  severity: 'error',
  from: { path: `^${source}/${from}/` },
  to: { path: `^${source}/`, pathNot: [from, ...allowed].map((folder) => `^${source}/${folder}/`) },
});

module.exports = {
  forbidden: [
    { name: 'no-circular', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'no-orphans',
      severity: 'error',
      from: { orphan: true, path: '^packages/', pathNot: '[.]d[.]ts$' },
      to: {},
    },
    {
      name: 'no-unresolvable',
      comment: 'an import that leads nowhere would escape every other rule',
      severity: 'error',
      from: {},
      to: { couldNotResolve: true },
    },
    only(BROWSER, 'core', []),
    only(BROWSER, 'live', []),
    only(BROWSER, 'receiver', ['core', 'live']),
    only(BROWSER, 'recorder', ['core', 'live', 'receiver']),
    only(BROWSER, 'service', ['core', 'live', 'receiver']),
    ...WINGS.map((wing) => only(BROWSER, wing, ['core', 'live', 'receiver', 'recorder', 'service'])),
    only(BROWSER, 'page', ['core', 'live', 'receiver', 'recorder', 'service', ...WINGS]),
    only(BROWSER, 'elements', ['core', 'live', 'receiver', 'recorder', 'service', ...WINGS, 'page']),
    ...['react', 'vue'].map((home) =>
      only(BROWSER, home, ['core', 'live', 'receiver', 'recorder', 'service', ...WINGS, 'page', 'elements']),
    ),
    {
      name: 'frameworks-are-optional',
      comment: 'an app without one does not install it',
      severity: 'error',
      from: { path: `^${BROWSER}/`, pathNot: `^${BROWSER}/(react|vue)/` },
      to: { path: 'node_modules/(react|vue|@types/react)/' },
    },
    ...NODE_WINGS.map((wing) => only(NODE, wing, [])),
    {
      name: 'core-is-pure',
      severity: 'error',
      from: { path: `^${BROWSER}/core/` },
      to: {
        dependencyTypes: ['npm', 'npm-dev', 'npm-peer', 'core'],
        pathNot: ['node_modules/(saxes|valibot|flatbush|flatqueue|d3-dsv)/'],
      },
    },
    {
      name: 'pages-run-without-node',
      severity: 'error',
      from: { path: `^${BROWSER}/` },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'mqtt-is-optional',
      comment: 'only the party needs it, and loads it when it connects; its types do not count',
      severity: 'error',
      from: { path: `^${BROWSER}/`, pathNot: `^${BROWSER}/presence/` },
      to: { path: 'node_modules/mqtt/' },
    },
    {
      name: 'browser-package-stands-alone',
      severity: 'error',
      from: { path: `^${BROWSER}/` },
      to: { path: `^${NODE}/` },
    },
    {
      name: 'node-takes-the-entries',
      comment: 'the Node package takes the browser package by its name: public entries and ./internal',
      severity: 'error',
      from: { path: `^${NODE}/` },
      to: {
        path: `^${BROWSER}/`,
        pathNot: `^${BROWSER}/(index|formats|testing|internal|(map|places|ways|presence|stores|report|texts)/index)\\.ts$`,
      },
    },
    {
      name: 'users-take-the-front-door',
      comment: 'tests, pages and benches import the packages by their names',
      severity: 'error',
      from: { path: '^(test|examples|bench|demo)/', pathNot: '^test/core/' },
      to: {
        path: '^packages/',
        pathNot: [
          `^${BROWSER}/(index|internal|testing|(map|elements|places|ways|presence|stores|report|texts|page|react|vue)/index)\\.ts$`,
          `^${NODE}/index\\.ts$`,
        ],
      },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '^test/preflight/projects/|/dist/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.rest.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['aurelian-source', 'import', 'node', 'default', 'types'],
    },
  },
};

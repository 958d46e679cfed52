/** The order in which data flows. A folder may use those before it, never those behind it, and only through their doors. */
const ORDER = [
  'notation',
  'sql',
  'values',
  'model',
  'schema',
  'dialects',
  'plan',
  'walls',
  'load',
  'ways',
  'reads',
  'warnings',
  'browse',
  'profile',
  'runs',
  'samples',
  'checks',
  'import',
  'map',
  'design',
  'log',
  'cards',
  'language',
  'edits',
  'revisions',
];
const OUTER = {
  contract: [],
  engines: ['core'],
  services: ['core', 'engines'],
  server: ['core', 'contract', 'engines', 'services'],
  web: ['core', 'contract'],
  cli: ['core', 'engines', 'services', 'server'],
};
const PURE_PACKAGES = '^node_modules/(pluralize|pure-rand|diff|@types/pluralize)/';

module.exports = {
  forbidden: [
    ...ORDER.map((folder, index) => ({
      name: `core-order-${folder}`,
      comment: `core/${folder} uses only what stands before it`,
      severity: 'error',
      from: { path: `^core/${folder}/`, pathNot: '\\.test\\.ts$' },
      to: { path: '^core/', pathNot: [`^core/${folder}/`, ...ORDER.slice(0, index).map((before) => `^core/${before}/`)] },
    })),
    {
      name: 'doors',
      comment: 'a folder of core is entered through its index.ts',
      severity: 'error',
      from: { path: '^(?:core/([^/]+)|([a-z]+))/' },
      to: { path: '^core/[^/]+/', pathNot: ['^core/[^/]+/index\\.ts$', '^core/$1/', '^core/walls/woven\\.ts$'] },
    },
    {
      name: 'woven-or-nothing',
      comment: 'what a woven plan is made of is read by those alone who make statements of it',
      severity: 'error',
      from: { pathNot: ['^core/walls/', '^core/(load|write)/compile/'] },
      to: { path: '^core/walls/woven\\.ts$' },
    },
    {
      name: 'one-maker-of-statements',
      comment: 'only core/load, and core/write, compile plans into statements',
      severity: 'error',
      from: { pathNot: '^core/(load|write)/' },
      to: { path: '^core/load/compile/' },
    },
    {
      name: 'oracle-on-its-own',
      comment: 'what the others are tested against uses nothing of theirs but the model',
      severity: 'error',
      from: { path: '^core/oracle/', pathNot: '\\.test\\.ts$' },
      to: { path: '^core/', pathNot: ['^core/oracle/', '^core/model/'] },
    },
    {
      name: 'core-is-pure',
      comment: 'core imports nothing outside core but a few pure packages',
      severity: 'error',
      from: { path: '^core/', pathNot: '\\.test\\.ts$' },
      to: { pathNot: ['^core/', PURE_PACKAGES] },
    },
    ...Object.entries(OUTER).map(([folder, allowed]) => ({
      name: `outer-order-${folder}`,
      comment: `${folder}/ uses only ${['its own', ...allowed].join(', ')}`,
      severity: 'error',
      from: { path: `^${folder}/`, pathNot: '\\.test\\.tsx?$' },
      to: {
        path: `^(${['core', ...Object.keys(OUTER), 'demo', 'bench', 'e2e', 'tools'].join('|')})/`,
        pathNot: [`^${folder}/`, ...allowed.map((name) => `^${name}/`)],
      },
    })),
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: {
      extensions: ['.ts', '.tsx', '.js'],
      exportsFields: ['exports'],
      conditionNames: ['import', 'default', 'types'],
    },
  },
};

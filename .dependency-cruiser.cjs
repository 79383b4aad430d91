/** The folders of core in the order in which they are built: each uses those before it, and none after it. */
const CORE = [
  'audio',
  'kernels',
  'signal',
  'measure',
  'processors',
  'setup',
  'reach',
  'findings',
  'repair',
  'drills',
  'sheet',
  'proof',
  'engine',
  'sounding',
  'check',
  'balance',
  'join',
  'deliver',
  'marks',
  'plan',
  'room',
  'demo',
];

/** The import rule: web, server and cli use core; core uses nothing of theirs, no DOM, no Node built-ins, no React. */
module.exports = {
  forbidden: [
    {
      name: 'core-is-alone',
      severity: 'error',
      from: { path: '^core/' },
      to: { path: '^(web|server|cli|e2e|scripts)/' },
    },
    {
      name: 'core-has-no-node',
      severity: 'error',
      from: { path: '^core/', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'core-packages',
      severity: 'error',
      from: { path: '^core/', pathNot: '(\\.test\\.ts$|^core/testing/)' },
      to: {
        path: 'node_modules',
        pathNot: 'node_modules/(zod|quickselect|@echogarden/(pffft|rnnoise)-wasm)/',
      },
    },
    {
      name: 'web-does-not-use-server',
      severity: 'error',
      from: { path: '^web/' },
      to: { path: '^(server|cli)/' },
    },
    {
      name: 'server-does-not-use-web-or-cli',
      severity: 'error',
      from: { path: '^server/' },
      to: { path: '^(web|cli)/' },
    },
    { name: 'cli-does-not-use-web', severity: 'error', from: { path: '^cli/' }, to: { path: '^web/' } },
    ...CORE.slice(0, -1).map((folder, at) => ({
      name: `core-${folder}-uses-what-comes-before`,
      severity: 'error',
      from: { path: `^core/${folder}/`, pathNot: '\\.test\\.ts$' },
      to: { path: `^core/(${CORE.slice(at + 1).join('|')}|testing)/` },
    })),
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'all-imports-resolve',
      severity: 'error',
      from: {},
      to: { couldNotResolve: true, pathNot: 'dist/node/' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'require', 'node', 'default'],
      extensions: ['.ts', '.tsx', '.js', '.mjs'],
    },
  },
};

/** Jest runs the TypeScript sources as native ES modules; `npm test` sets the Node flag that this needs. */
export default {
  testEnvironment: 'node',
  roots: [
    '<rootDir>/core',
    '<rootDir>/server',
    '<rootDir>/cli',
    '<rootDir>/web',
    '<rootDir>/scripts',
    '<rootDir>/attack',
  ],
  testMatch: ['**/*.test.ts'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: {
    '^.+\\.tsx?$': [
      '<rootDir>/scripts/jestTransform.mjs',
      { jsc: { target: 'es2022', parser: { syntax: 'typescript', tsx: true } }, module: { type: 'es6' } },
    ],
  },
  // In Jest's sandbox every use of a global is slow, which tells in the media library's inner loops; its CommonJS
  // form can be given Math directly.
  sandboxInjectedGlobals: ['Math'],
  moduleNameMapper: {
    '^mediabunny$': '<rootDir>/node_modules/mediabunny/dist/bundles/mediabunny.node.cjs',
  },
  testSequencer: '<rootDir>/scripts/jestSequencer.mjs',
  maxWorkers: 2,
  testTimeout: 120000,
};

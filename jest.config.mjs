/** Jest runs the TypeScript sources as native ES modules; `npm test` sets the Node flag that this needs. */
export default {
  testEnvironment: 'node',
  roots: ['<rootDir>/core', '<rootDir>/server', '<rootDir>/cli', '<rootDir>/scripts'],
  testMatch: ['**/*.test.ts'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: {
    '^.+\\.tsx?$': [
      '@swc/jest',
      { jsc: { target: 'es2022', parser: { syntax: 'typescript', tsx: true } }, module: { type: 'es6' } },
    ],
  },
  testTimeout: 120000,
};

module.exports = {
  ...require('./jest.base.cjs'),
  rootDir: __dirname,
  testEnvironment: 'node',
  testMatch: ['<rootDir>/apps/server/**/*.test.ts', '<rootDir>/tools/src/faults/*.test.ts'],
  globalSetup: '<rootDir>/apps/server/test/template.ts',
  globalTeardown: '<rootDir>/apps/server/test/template-away.ts',
  testTimeout: 180_000,
};

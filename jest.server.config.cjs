module.exports = {
  ...require('./jest.base.cjs'),
  rootDir: __dirname,
  testEnvironment: 'node',
  testMatch: ['<rootDir>/apps/server/**/*.test.ts', '<rootDir>/tools/src/faults/*.test.ts'],
  testTimeout: 180_000,
};

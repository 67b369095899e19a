module.exports = {
  ...require('./jest.base.cjs'),
  rootDir: __dirname,
  testEnvironment: 'node',
  testMatch: ['<rootDir>/apps/server/**/*.test.ts'],
  testTimeout: 60_000,
};

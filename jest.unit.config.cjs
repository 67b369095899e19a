module.exports = {
  projects: [
    {
      ...require('./jest.base.cjs'),
      displayName: 'core',
      rootDir: __dirname,
      testEnvironment: 'node',
      testMatch: ['<rootDir>/packages/**/*.test.ts'],
    },
    {
      ...require('./jest.base.cjs'),
      displayName: 'tools',
      rootDir: __dirname,
      testEnvironment: 'node',
      testMatch: ['<rootDir>/tools/**/*.test.ts'],
      // These need the built server and a cluster of their own.
      testPathIgnorePatterns: ['/node_modules/', '<rootDir>/tools/src/faults/'],
    },
    {
      ...require('./jest.base.cjs'),
      displayName: 'web',
      rootDir: __dirname,
      testEnvironment: '<rootDir>/apps/web/src/testing/environment.cjs',
      testEnvironmentOptions: { customExportConditions: ['node', 'require', 'default'] },
      setupFilesAfterEnv: ['<rootDir>/apps/web/src/testing/set-up.ts'],
      testMatch: ['<rootDir>/apps/web/**/*.test.{ts,tsx}'],
      moduleNameMapper: {
        ...require('./jest.base.cjs').moduleNameMapper,
        '\\?worker$': '<rootDir>/apps/web/src/testing/worker.ts',
        '\\.css$': '<rootDir>/apps/web/src/testing/empty.cjs',
        // It comes as modules and, for programs such as this one, as one file.
        '^d3$': '<rootDir>/node_modules/d3/dist/d3.js',
      },
    },
  ],
};

/** What all Jest projects share: TypeScript through swc, the libraries from their sources, packages that are ESM only let through. */
module.exports = {
  transform: {
    '^.+\\.(t|j)sx?$': [
      '@swc/jest',
      {
        jsc: {
          target: 'es2022',
          parser: { syntax: 'typescript', tsx: true, decorators: true },
          transform: { legacyDecorator: true, decoratorMetadata: true, useDefineForClassFields: false, react: { runtime: 'automatic' } },
          keepClassNames: true,
        },
        module: { type: 'commonjs' },
      },
    ],
  },
  transformIgnorePatterns: [
    '/node_modules/(?!(date-fns|@date-fns|nodemailer|csv-parse|csv-stringify|d3.*|internmap|delaunator|robust-predicates|lucide-react|@tanstack/react-table|@tanstack/table-core|@hookform|@scure|@noble|@otplib|otplib)/)',
  ],
  moduleNameMapper: {
    '^@eager-sieve/core$': '<rootDir>/packages/core/src/index.ts',
    '^@eager-sieve/contracts$': '<rootDir>/packages/contracts/src/index.ts',
  },
  modulePathIgnorePatterns: ['/dist/'],
};

import tseslint from 'typescript-eslint';
import reactHooks from 'eslint-plugin-react-hooks';

/** SQL may not ask the database for the time: what a pass means must not depend on when a statement happens to run. */
const noNowInSql = {
  selector:
    'TemplateElement[value.raw=/\\b(now\\(\\)|current_timestamp|clock_timestamp\\(\\)|current_date)/i], Literal[value=/\\b(now\\(\\)|current_timestamp|clock_timestamp\\(\\)|current_date)/i]',
  message: 'now() takes no part in meaning: pass an instant from the injected clock.',
};

export default tseslint.config(
  { ignores: ['**/dist/**', '**/node_modules/**', '.sieve/**', '**/test-results/**', '**/*.cjs'] },
  ...tseslint.configs.recommended,
  {
    files: ['**/*.{ts,tsx}'],
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/consistent-type-imports': 'off',
      'no-restricted-syntax': ['error', noNowInSql],
      eqeqeq: ['error', 'always', { null: 'ignore' }],
      'no-console': 'error',
    },
  },
  {
    files: ['packages/core/src/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: {
      'no-restricted-globals': ['error', 'process', 'fetch', 'setTimeout', 'setInterval', 'window', 'document', 'Buffer'],
      'no-restricted-properties': [
        'error',
        { object: 'Date', property: 'now', message: 'Time is handed in.' },
        { object: 'Math', property: 'random', message: 'Chance is handed in.' },
      ],
    },
  },
  {
    files: ['apps/web/**/*.{ts,tsx}'],
    plugins: { 'react-hooks': reactHooks },
    rules: { ...reactHooks.configs.recommended.rules, 'react-hooks/incompatible-library': 'off' },
  },
  {
    // A new kind of thing has to be named in every switch over such kinds: a default would take it silently.
    files: ['{packages,apps}/*/src/**/*.{ts,tsx}', 'tools/src/**/*.ts'],
    ignores: ['**/*.test.{ts,tsx}', '**/testing/**'],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: { '@typescript-eslint/switch-exhaustiveness-check': 'error' },
  },
  { files: ['tools/**/*.ts'], rules: { 'no-console': 'off' } },
);

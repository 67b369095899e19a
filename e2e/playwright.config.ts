import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: './tests',
  timeout: 240_000,
  expect: { timeout: 30_000 },
  workers: 2,
  retries: 0,
  reporter: [['list']],
  // The slice begins with nobody there; what looks at every screen comes after it and finds them filled.
  projects: [
    { name: 'slice', testMatch: 'slice.test.ts' },
    {
      name: 'screens',
      testMatch: /(outline|typing|trade|setup|intake|rules|people|fields|sellers|accessible).test.ts/,
      dependencies: ['slice'],
    },
  ],
  globalSetup: './support/server.ts',
  use: {
    viewport: { width: 1280, height: 800 },
    actionTimeout: 30_000,
    trace: 'retain-on-failure',
    launchOptions: {
      executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
});

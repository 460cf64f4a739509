import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: 'tests/e2e',
  outputDir: 'test-results',
  // each file has a server and a copy of the demo of its own (see workspace.ts): two run beside each other
  globalSetup: './tests/e2e/prepare.ts',
  workers: 2,
  fullyParallel: false,
  // generous, since CI's machine may be busy: nothing here measures speed
  timeout: 150_000,
  // a test that passes only at the second try is named at the end: it is looked into, and holds nothing up
  retries: 1,
  expect: { timeout: 20_000 },
  reporter: [['list'], ['json', { outputFile: 'test-results/e2e.json' }]],
  use: {
    viewport: { width: 1280, height: 800 },
    // a trace takes a fifth of a test's time: it is made at the second try, which only what failed has
    trace: 'on-first-retry',
    launchOptions: {
      executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
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

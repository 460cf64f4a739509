import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { defineConfig } from '@playwright/test';

const port = 3199;
const data = join(tmpdir(), `brisk-acorn-e2e-${process.pid}`);

export default defineConfig({
  testDir: 'tests/e2e',
  outputDir: 'test-results',
  // one server, one database: the tests run in the order of their files and build on the demo data
  workers: 1,
  fullyParallel: false,
  // generous, since CI's machine may be busy: nothing here measures speed
  timeout: 150_000,
  expect: { timeout: 20_000 },
  reporter: [['list'], ['json', { outputFile: 'test-results/e2e.json' }]],
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    trace: 'retain-on-failure',
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
  webServer: {
    command: 'node .output/server/index.mjs',
    url: `http://127.0.0.1:${port}/api/session`,
    timeout: 60_000,
    env: {
      PORT: String(port),
      NITRO_HOST: '127.0.0.1',
      BRISK_DATA: data,
      BRISK_DEMO: join(import.meta.dirname, 'demo'),
      // enough herbarium sheets that their list is read in pages from the database
      BRISK_SCALE: '20000',
      BRISK_DEMO_RECORDS: 'few',
      BRISK_PLAIN_HTTP: 'yes',
      BRISK_CHECK_ANSWERS: 'yes',
    },
  },
});

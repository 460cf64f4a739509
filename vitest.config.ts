import { availableParallelism } from 'node:os';
import { fileURLToPath } from 'node:url';
import vue from '@vitejs/plugin-vue';
import Unimport from 'unimport/unplugin';
import { defineConfig } from 'vitest/config';

const root = fileURLToPath(new URL('.', import.meta.url));

export default defineConfig({
  // the application's own names are found without imports, in tests as in the application
  plugins: [vue(), Unimport.vite({ presets: ['vue', 'pinia'], dirs: [`${root}app/composables`, `${root}app/stores`] })],
  resolve: { alias: { '~~': root, '~': `${root}app` } },
  test: {
    include: ['core/**/*.test.ts', 'server/**/*.test.ts', 'app/**/*.test.ts', 'modules/**/*.test.ts'],
    // property tests draw thousands of cases; the runs are bounded by count, never by time
    globalSetup: ['server/testing/demoFolder.ts'],
    // Vitest leaves one processor out, which of two is half of the time; more than some would only wait for the disk
    maxWorkers: Math.min(availableParallelism(), 8),
    testTimeout: 120_000,
    hookTimeout: 120_000,
  },
});

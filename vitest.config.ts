import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['core/**/*.test.ts', 'server/**/*.test.ts', 'app/**/*.test.ts'],
    // property tests draw thousands of cases; the runs are bounded by count, never by time
    testTimeout: 120_000,
    hookTimeout: 120_000,
  },
});

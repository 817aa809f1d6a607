import { defineConfig } from 'vitest/config';

/** The tests of core alone, for `npm run mutation`: of what they let pass, nothing slower is to be saved by. */
export default defineConfig({
  test: {
    root: '.',
    include: ['core/**/*.test.ts'],
    environment: 'node',
    testTimeout: 240_000,
    maxWorkers: 1,
  },
});

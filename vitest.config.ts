import { defineConfig } from 'vitest/config';
import { LongFirst } from './test/long-first';

export default defineConfig({
  test: {
    // Each file has schemas of its own, so they can go side by side. A process does several, so that the server's
    // modules are read once in each instead of in every file.
    maxWorkers: 2,
    isolate: false,
    sequence: { sequencer: LongFirst },
    projects: [
      {
        test: {
          name: 'core',
          include: ['core/**/*.test.ts', 'sections/**/*.test.ts', 'web/**/*.test.ts'],
          environment: 'node',
          testTimeout: 240_000,
        },
      },
      {
        test: {
          name: 'server',
          include: ['server/**/*.test.ts', 'start/**/*.test.ts', 'demo/**/*.test.ts'],
          environment: 'node',
          globalSetup: ['test/database.ts'],
          testTimeout: 240_000,
          hookTimeout: 240_000,
        },
      },
    ],
  },
});

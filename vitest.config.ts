import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    projects: [
      { test: { name: 'core', include: ['core/**/*.test.ts', 'web/**/*.test.ts'], environment: 'node', testTimeout: 60_000 } },
      {
        test: {
          name: 'server', include: ['server/**/*.test.ts', 'start/**/*.test.ts', 'demo/**/*.test.ts'], environment: 'node', globalSetup: ['test/database.ts'], testTimeout: 60_000, hookTimeout: 120_000,
        },
      },
    ],
  },
});

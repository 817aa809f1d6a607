import { defineConfig } from 'vitest/config';
import { LongFirst } from './test/long-first';
import { made, prebuilt } from './test/prebuilt';

// A process does several files, so that the server's modules are read once in each and not in every file.
const shared = {
  environment: 'node' as const,
  isolate: false,
  testTimeout: 240_000,
  server: { deps: { external: [made] } },
};

const plugins = process.argv.includes('run') ? [prebuilt()] : [];

export default defineConfig({
  test: {
    // Each file has schemas of its own, so they can go side by side; some of them mostly wait (`test/database.ts`).
    maxWorkers: 4,
    sequence: { sequencer: LongFirst },
    projects: [
      {
        plugins,
        test: {
          ...shared,
          name: 'core',
          include: ['{core,sections,web,bench}/**/*.test.ts'],
        },
      },
      {
        plugins,
        test: {
          ...shared,
          name: 'server',
          include: ['{server,demo,test}/**/*.test.ts'],
          globalSetup: ['test/database.ts'],
          hookTimeout: 240_000,
        },
      },
      {
        // They start and kill whole servers, and share a process with nothing.
        plugins,
        test: { ...shared, name: 'start', isolate: true, include: ['start/**/*.test.ts'], hookTimeout: 240_000 },
      },
    ],
  },
});

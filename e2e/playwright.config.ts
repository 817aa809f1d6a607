import { defineConfig } from '@playwright/test';
import { chromiumOptions } from '../test/chromium';

/**
 * One port a worker, each with a server and a database of its own; workers read them from the environment. Below those
 * of connections that go out, which could be there before (`freePort`).
 */
const first = 20_000 + Math.floor(Math.random() * 12_000);
const ports = (process.env.E2E_PORTS ??= [first, first + 1, first + 2].join(' ')).split(' ');

export default defineConfig({
  testDir: '.',
  testMatch: '*.e2e.ts',
  workers: ports.length,
  fullyParallel: false,
  forbidOnly: true,
  retries: 0,
  // Generous: a busy machine is slow, not wrong.
  timeout: 480_000,
  expect: { timeout: 60_000 },
  outputDir: '../test-results',
  reporter: process.env.PLAYWRIGHT_JSON_OUTPUT_NAME ? [['list'], ['json']] : [['list']],
  use: {
    viewport: { width: 1280, height: 800 },
    actionTimeout: 60_000,
    locale: 'en-GB',
    timezoneId: 'Europe/London',
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: chromiumOptions,
  },
  webServer: {
    command: 'node --import tsx serve-all.ts',
    env: process.env as Record<string, string>,
    cwd: import.meta.dirname,
    wait: { stdout: /all are serving/ },
    timeout: 240_000,
    gracefulShutdown: { signal: 'SIGTERM', timeout: 20_000 },
    stdout: 'pipe',
  },
});

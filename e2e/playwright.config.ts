import { defineConfig } from '@playwright/test';

/** One port for the run: workers read it from the environment. */
const port = (process.env.E2E_PORT ??= String(20_000 + Math.floor(Math.random() * 20_000)));

export default defineConfig({
  testDir: '.',
  testMatch: '*.e2e.ts',
  workers: 1,
  fullyParallel: false,
  forbidOnly: true,
  retries: 0,
  timeout: 90_000,
  expect: { timeout: 15_000 },
  outputDir: '../test-results',
  reporter: process.env.PLAYWRIGHT_JSON_OUTPUT_NAME ? [['list'], ['json']] : [['list']],
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    locale: 'en-GB',
    timezoneId: 'Europe/London',
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: ['--no-sandbox', '--headless', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync'],
    },
  },
  webServer: {
    command: 'node --import tsx serve.ts', cwd: import.meta.dirname, url: `http://127.0.0.1:${port}/api/portals/alder-fen/door`, timeout: 120_000, gracefulShutdown: { signal: 'SIGTERM', timeout: 20_000 }, stdout: 'pipe',
  },
});

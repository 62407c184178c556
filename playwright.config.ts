import { defineConfig } from '@playwright/test'

const port = 4791

/** End-to-end tests drive headless Chromium against the production build, on a data folder of their own. */
export default defineConfig({
  testDir: 'tests/e2e',
  outputDir: '.build/results/e2e',
  reporter: process.env.PLAYWRIGHT_JSON_OUTPUT_NAME ? [['list'], ['json']] : [['list']],
  workers: 1,
  // a test that needs a second try is listed as flaky
  retries: process.env.CI ? 1 : 0,
  timeout: 90_000,
  expect: { timeout: 15_000 },
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
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
    screenshot: 'only-on-failure',
  },
  webServer: {
    command: `node tests/e2e/server.mjs ${port}`,
    url: `http://127.0.0.1:${port}/api/library`,
    timeout: 120_000,
    stdout: 'pipe',
    gracefulShutdown: { signal: 'SIGTERM', timeout: 10_000 },
  },
})

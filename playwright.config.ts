import { defineConfig } from '@playwright/test';
import { testLaunch } from './scripts/chromium';

const PORT = 4291;
const LONG = /(whole-day|agreement|sky|readable|looks)\.spec\.ts$/;

export default defineConfig({
  testDir: 'e2e',
  timeout: 300_000,
  expect: { timeout: 30_000 },
  // Each test has a browser context, and so a storage, of its own; the server is asked for files only.
  workers: 2,
  fullyParallel: true,
  // What takes long comes first: the others fill up both workers to the end.
  projects: [
    { name: 'long', testMatch: LONG },
    { name: 'short', testIgnore: LONG }
  ],
  reporter: [['list'], ['json', { outputFile: '.cache/e2e.json' }]],
  outputDir: 'test-results',
  use: {
    baseURL: `http://127.0.0.1:${PORT}`,
    actionTimeout: 30_000,
    navigationTimeout: 40_000,
    viewport: { width: 1280, height: 800 },
    screenshot: 'only-on-failure',
    launchOptions: testLaunch()
  },
  webServer: {
    command: 'node scripts/run.mjs demo',
    url: `http://127.0.0.1:${PORT}`,
    env: { PORT: String(PORT) },
    timeout: 300_000
  }
});

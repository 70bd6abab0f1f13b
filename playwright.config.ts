import { defineConfig } from '@playwright/test';
import { CHROMIUM } from './e2e/chromium';

const port = process.env.E2E_PORT ?? '4412';

/** Drives the production build in Debian's Chromium; bin/test has built it and loaded the demo. */
export default defineConfig({
  testDir: 'e2e',
  timeout: 180_000,
  expect: { timeout: 15_000 },
  workers: 1,
  forbidOnly: true,
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    // Nothing moves under the pointer; the interface heeds what people ask of their system.
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: CHROMIUM,
  },
  webServer: {
    command: `NODE_ENV=production node --import tsx src/serve.ts ${port}`,
    url: `http://127.0.0.1:${port}/health`,
    reuseExistingServer: false,
    timeout: 60_000,
  },
});

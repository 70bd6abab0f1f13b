import { defineConfig } from '@playwright/test';
import { CHROMIUM } from './e2e/chromium';
import { addressOf, PORTS } from './e2e/test';

/** A server for each worker, over a database of its own; without `E2E_DATABASES` one, over `DATABASE_URL`. */
const databases = (process.env.E2E_DATABASES ?? process.env.DATABASE_URL ?? '').split(',');

/** Time limits are for what hangs, not for what is slow. */
const MINUTE = 60_000;

/** Drives the production build in Debian's Chromium; bin/test has built it and loaded the demo. */
export default defineConfig({
  testDir: 'e2e',
  timeout: 20 * MINUTE,
  expect: { timeout: 2 * MINUTE },
  workers: PORTS.length,
  forbidOnly: true,
  // The one that restarts the database comes last, when nobody else needs it.
  projects: [
    { name: 'interface', testIgnore: /recovery/ },
    { name: 'recovery', testMatch: /recovery/, dependencies: ['interface'] },
  ],
  use: {
    viewport: { width: 1280, height: 800 },
    // Nothing moves under the pointer; the interface heeds what people ask of their system.
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: CHROMIUM,
  },
  webServer: PORTS.map((port, at) => ({
    command: `NODE_ENV=production node --import tsx src/serve.ts ${port}`,
    env: { DATABASE_URL: databases[at] ?? '' },
    url: `${addressOf(at)}/health`,
    reuseExistingServer: false,
    timeout: 5 * MINUTE,
  })),
});

import { defineConfig } from '@playwright/test';
import { chromiumPath } from './chromium.mjs';

// Debian's Chromium; its own network chatter is switched off, since nothing outside is there to answer.
export default defineConfig({
  testDir: '.',
  outputDir: '../../test-results',
  globalSetup: './template.mjs',
  workers: 2,
  retries: 0,
  // Generous, so that a slow or busy machine makes the tests late and not wrong.
  timeout: 200_000,
  expect: { timeout: 25_000 },
  use: {
    viewport: { width: 1280, height: 800 },
    actionTimeout: 25_000,
    navigationTimeout: 40_000,
    launchOptions: {
      executablePath: chromiumPath,
      args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync'],
    },
  },
});

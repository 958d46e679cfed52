import { existsSync } from 'node:fs';
import { defineConfig } from '@playwright/test';

const CHROMIUM =
  process.env.CHROMIUM ??
  ['/usr/bin/chromium', '/usr/bin/chromium-browser', '/usr/bin/google-chrome'].find((path) => existsSync(path));

export default defineConfig({
  testDir: 'e2e',
  globalSetup: './e2e/start-servers.ts',
  workers: 1,
  // A busy machine may miss a moment; a test that passes only at the second try is named in the list.
  retries: 1,
  timeout: 180_000,
  expect: { timeout: 30_000 },
  reporter: [['list'], ['json']],
  outputDir: 'test-results/browser',
  use: {
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      ...(CHROMIUM === undefined ? {} : { executablePath: CHROMIUM }),
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
  },
});

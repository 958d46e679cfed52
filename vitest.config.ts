import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['{core,engines,services,server,cli,contract,tools,web}/**/*.test.ts'],
    globalSetup: ['tests/start-servers.ts'],
    testTimeout: 60_000,
    hookTimeout: 60_000,
    pool: 'forks',
    maxWorkers: 2,
  },
});

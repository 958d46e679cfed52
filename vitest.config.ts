import { defineConfig } from 'vitest/config';

// What is waited for is another process, on machines that are sometimes busy: a limit is there to end what hangs, and measures nothing.
const TIMES = { testTimeout: 240_000, hookTimeout: 240_000 };

export default defineConfig({
  test: {
    globalSetup: ['tests/start-servers.ts'],
    pool: 'forks',
    maxWorkers: 2,
    // On a busy machine what is quick takes long, and what is endless is ended all the same.
    env: { FAMILY_TREE_LONGEST_RUN: '30' },
    projects: [
      {
        test: {
          ...TIMES,
          name: 'program',
          include: ['{core,engines,services,server,cli,contract,tools,web/workers}/**/*.test.ts'],
        },
      },
      // What stands in a page has a document to stand in.
      {
        test: { ...TIMES, name: 'page', include: ['web/{app,parts,screens}/**/*.test.{ts,tsx}'], environment: 'jsdom' },
      },
    ],
  },
});

/**
 * `node tools/programs.mjs FOLDER`: builds each program of this package that runs in a process of its own into one file with what it
 * shares with the others beside it, so that a process starts without looking for hundreds of modules.
 */
import { resolve } from 'node:path';
import { build } from 'vite';

/** Where their sources are, without the ending. */
const PROGRAMS = [
  'cli/main',
  'engines/sqlite/child',
  'engines/postgres/embedded/child',
  'server/workers/text-work',
  'server/workers/tree-work',
];

const [folder = 'dist'] = process.argv.slice(2);
await build({
  configFile: false,
  logLevel: 'warn',
  build: {
    ssr: true,
    outDir: resolve(folder),
    emptyOutDir: true,
    target: 'node20',
    minify: false,
    sourcemap: true,
    rolldownOptions: {
      input: Object.fromEntries(PROGRAMS.map((name) => [name, `${name}.ts`])),
      output: { entryFileNames: '[name].js', chunkFileNames: 'chunks/[name]-[hash].js' },
    },
  },
});

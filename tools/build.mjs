/** Builds dist/: by itself, or, for a tool or with `--if-stale`, where a source is newer than it. */
import { existsSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { run } from './install.mjs';

const SOURCES = [
  'core',
  'contract',
  'engines',
  'services',
  'server',
  'web',
  'cli',
  'package-lock.json',
  'tsconfig.json',
  'tools/programs.mjs',
  'vite.config.ts',
];
const STAMP = 'dist/.built';

function newest(path) {
  const found = statSync(path);
  if (!found.isDirectory()) return found.mtimeMs;
  return Math.max(found.mtimeMs, ...readdirSync(path).map((name) => newest(join(path, name))));
}

export function buildIfStale() {
  const built = existsSync(STAMP) ? statSync(STAMP).mtimeMs : 0;
  if (built > Math.max(...SOURCES.map(newest))) return;
  process.stdout.write('Building…\n');
  build();
}

/** The programs, and beside them the page. */
function build() {
  run('node', ['tools/programs.mjs', 'dist']);
  run('npx', ['--no-install', 'vite', 'build', '--logLevel', 'warn']);
  writeFileSync(STAMP, '');
}

if (import.meta.filename === process.argv[1]) {
  if (process.argv.includes('--if-stale')) buildIfStale();
  else build();
}
